import { describe, expect, test } from 'vitest';
import { rawFromText } from './atoms.ts';
import { readPage, textAround } from './read.ts';
import { bytesOf, lineAt, lineStarts } from './source.ts';
import { sourceOf, utf8 } from './test/reading.ts';

describe('source', () => {
  test('raw strings are bytes and back', () => {
    const bytes = Uint8Array.from({ length: 256 }, (_, i) => i);
    expect(bytesOf(readSourceRaw(bytes))).toEqual(bytes);
    expect(() => bytesOf('\u0100')).toThrow(RangeError);
    expect(rawFromText('é')).toBe('\u00c3\u00a9');
  });
  test('lines end at LF, CR and CRLF', () => {
    const starts = lineStarts('a\nb\r\nc\rd');
    expect([0, 2, 5, 7].map((at) => lineAt(starts, at))).toEqual([1, 2, 3, 4]);
  });
  test('the text around a placement', () => {
    const source = sourceOf(
      utf8(
        '<h2>Open nights</h2><p>We show <em>Saturn</em>: <img src=a.png> through the refractor &amp; more.</p>',
      ),
    );
    const [one] = readPage('p.html', source).references;
    expect(textAround(source, one!.start, one!.end)).toEqual({
      before: 'Open nights We show Saturn :',
      after: 'through the refractor & more.',
    });
  });
});

function readSourceRaw(bytes: Uint8Array): string {
  return Array.from(bytes, (byte) => String.fromCharCode(byte)).join('');
}
