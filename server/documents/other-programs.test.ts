import { readFileSync } from 'node:fs';
import { strFromU8, unzipSync } from 'fflate';
import { describe, expect, it, test } from 'vitest';
import type { RichNode } from '../../core/document/rich.ts';
import { editedWorkbook, workbookEdits } from '../../core/sheet/editor.ts';
import { editedWord, wordEdits } from '../../core/word/editor.ts';
import { blocksOf } from '../../core/word/draft.ts';
import { readWord } from '../../core/word/read-word.ts';

/** Documents of our own that other programs have written: a change of one word or cell leaves everything else as it is. */
const written = (name: string) => new Uint8Array(readFileSync(new URL(`./test/${name}`, import.meta.url)));
const parts = (bytes: Uint8Array) =>
  Object.entries(unzipSync(bytes)).map(([name, part]) => [name, strFromU8(part, true)] as const);
/** The parts that are others, were added or are gone. */
function changed(before: Uint8Array, after: Uint8Array): string[] {
  const [was, now] = [new Map(parts(before)), new Map(parts(after))];
  return [...new Set([...was.keys(), ...now.keys()])].filter((name) => was.get(name) !== now.get(name));
}
const part = (bytes: Uint8Array, name: string) => strFromU8(unzipSync(bytes)[name]!);

describe('a text of a word processor', () => {
  const before = written('leaflet.docx');
  const MAIN = 'word/document.xml';
  /** Changes the text that holds these words. */
  function withWords(from: string, to: string): Uint8Array {
    const was = readWord(before).doc;
    const doc = structuredClone(was);
    const walk = (node: RichNode) => {
      if (node.text?.includes(from)) node.text = node.text.replace(from, to);
      node.content?.forEach(walk);
    };
    walk(doc);
    return editedWord(before, blocksOf(was, doc)!, new Map());
  }

  it.each([
    ['a bold word', 'Fridays', 'Saturdays'],
    ['a word of a link', 'red torch', 'red lamp'],
    ['a heading', 'When it is cloudy', 'When it is wet'],
    ['an item in a list within a list', 'half past eleven', 'midnight'],
    ['a cell of a table', '13 November', '14 November'],
  ])('%s', (_, from, to) => {
    const after = withWords(from, to);
    expect(changed(before, after)).toEqual([MAIN]);
    expect(part(after, MAIN)).toBe(part(before, MAIN).replace(from, to));
    expect(wordEdits(before, after)).toHaveLength(1);
  });
});

describe.each(['prices.xlsx', 'prices-scripted.xlsx'])('a workbook of another program: %s', (name) => {
  const before = written(name);
  const SHEET = 'xl/worksheets/sheet1.xml';
  const SUMS = ['D2', 'D3', 'D4', 'D5'];
  /** A sheet without some of its cells. */
  const without = (bytes: Uint8Array, ...cells: string[]) =>
    cells.reduce(
      (xml, at) => xml.replace(new RegExp(`<c r="${at}"[^>]*?(?:/>|>.*?</c>)`, 's'), ''),
      part(bytes, SHEET),
    );

  test('a price changes, and the sums with it: chart, comments, rules, looks and other sheets stay', () => {
    const after = editedWorkbook(before, [{ do: 'set', sheet: 0, cells: [[2, 1, '6.50']] }]).bytes;
    expect(changed(before, after)).toEqual([SHEET]);
    expect(without(after, 'B3', ...SUMS)).toBe(without(before, 'B3', ...SUMS));
    const told = workbookEdits(before, after);
    const said = told.map(({ cell, after: now }) => [cell, now]);
    // A sum that had not been worked out before is told, too.
    expect(said.filter(([cell]) => !/^D[24]/.test(cell!))).toEqual([
      ['B3 of “Prices”', '£6.50'],
      ['D3 of “Prices”', '260'],
      ['D5 of “Prices”', '542'],
    ]);
  });
});
