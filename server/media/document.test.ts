import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { docx, xlsx } from '../../demo/documents.ts';
import { readOffice, textOf } from './document.ts';

test('office documents are searched by their words: also by those that stand in the cells of a sheet, without its numbers', async () => {
  const folder = await mkdtemp(join(tmpdir(), 'iconomos-office-'));
  const read = async (name: string, bytes: Uint8Array) => {
    await writeFile(join(folder, name), bytes);
    return (await readOffice(join(folder, name))).text.split('\n');
  };
  const prices = await read('prices.xlsx', xlsx());
  expect(prices).toEqual(expect.arrayContaining(['Item', 'Enamel pin, dome', 'Members pay a tenth less.']));
  expect(prices.join(' ')).not.toMatch(/SUM|9\.5/);
  expect(await read('form.docx', docx('Booking form'))).toEqual(
    expect.arrayContaining([
      'Booking form',
      'Evenings for schools are held from October to March, on weekdays, and last two hours.',
    ]),
  );
});

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
