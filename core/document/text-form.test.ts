import { expect, test } from 'vitest';
import { NoText, readText, writeText } from './text-form.ts';

const utf8 = (text: string) => new TextEncoder().encode(text);
const utf16 = (text: string, little: boolean) => {
  const bytes = new Uint8Array(2 + 2 * text.length);
  const view = new DataView(bytes.buffer);
  for (const [at, char] of [...`\ufeff${text}`].entries()) view.setUint16(2 * at, char.charCodeAt(0), little);
  return bytes;
};

test.each<[string, Uint8Array, object]>([
  ['UTF-8', utf8('Café\n'), { encoding: 'utf-8', mark: false, lineEnd: '\n', text: 'Café\n' }],
  ['UTF-8 with a mark', utf8('\ufeffa\r\nb'), { mark: true, lineEnd: '\r\n', mixed: false, text: 'a\nb' }],
  ['windows-1252', Uint8Array.of(0x43, 0x61, 0x66, 0xe9, 0x80), { encoding: 'windows-1252', text: 'Café€' }],
  ['UTF-16, little end first', utf16('é\n', true), { encoding: 'utf-16le', mark: true, text: 'é\n' }],
  ['UTF-16, big end first', utf16('é\r', false), { encoding: 'utf-16be', lineEnd: '\r', text: 'é\n' }],
  ['nothing', new Uint8Array(), { encoding: 'utf-8', lineEnd: '\n', mixed: false, text: '' }],
  ['different ends', utf8('a\r\nb\nc\r\n'), { lineEnd: '\r\n', mixed: true, text: 'a\nb\nc\n' }],
])('%s is read, and written back to the byte', (_what, bytes, says) => {
  const read = readText(bytes);
  expect(read).toMatchObject(says);
  expect(writeText(bytes, read.text)).toEqual(bytes);
});

test('bytes of no text are told', () => {
  expect(() => readText(Uint8Array.of(65, 0, 66))).toThrow(NoText);
});

test('a new line gets the end that most have; the others keep theirs', () => {
  const before = utf8('one\r\ntwo\nthree\r\nfour');
  const { text } = readText(before);
  const after = writeText(before, text.replace('two\n', 'two\nnew\n').replace('four', 'four\nfive'));
  expect(new TextDecoder().decode(after)).toBe('one\r\ntwo\nnew\r\nthree\r\nfour\r\nfive');
});

test('a text keeps its encoding, and says which character that does not have', () => {
  const before = Uint8Array.of(0x43, 0x61, 0x66, 0xe9);
  expect([...writeText(before, 'Café – €')]).toEqual([0x43, 0x61, 0x66, 0xe9, 0x20, 0x96, 0x20, 0x80]);
  expect(() => writeText(before, 'Café ☾')).toThrow(/windows-1252, which has no “☾”/);
});
