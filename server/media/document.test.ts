import { expect, test } from 'vitest';
import { textOf } from './document.ts';

test('text is read in the encoding it is in: by its mark, as UTF-8, else as windows-1252 to its last sign', () => {
  const text = 'Café – “5 €” \u0160\u0178';
  expect(textOf(Buffer.from(text))).toBe(text);
  expect(textOf(Buffer.from(`\ufeff${text}`))).toBe(text);
  expect(textOf(Buffer.from(`\ufeff${text}`, 'utf16le'))).toBe(text);
  expect(textOf(Buffer.from(`\ufeff${text}`, 'utf16le').swap16())).toBe(text);
  // The quotes, the dash and the euro sign lie where Latin-1 has control characters.
  const windows = [0x43, 0x61, 0x66, 0xe9, 0x20, 0x96, 0x20, 0x93, 0x35, 0x20, 0x80, 0x94, 0x20, 0x8a, 0x9f];
  expect(textOf(Buffer.from(windows))).toBe(text);
  // A long one is cut wherever that comes.
  expect(textOf(Buffer.from('naïve €').subarray(0, -1))).toMatch(/^naïve/);
});
