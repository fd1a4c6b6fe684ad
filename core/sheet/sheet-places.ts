import { attributeOf, withAttribute, withTexts, xmlTags } from '../office/xml-tags.ts';
import { shifted, shiftedFormula, shiftedRanges, type Shift } from './formula.ts';
import { MOST_COLUMNS } from './sheet.ts';

/** Elements of a sheet that name ranges, with their attributes; formulas stand in some of them. */
const RANGES: Readonly<Record<string, string>> = {
  dimension: 'ref',
  mergeCell: 'ref',
  conditionalFormatting: 'sqref',
  dataValidation: 'sqref',
  hyperlink: 'ref',
  autoFilter: 'ref',
  protectedRange: 'sqref',
  ignoredError: 'sqref',
};
const FORMULAS = new Set(['formula', 'formula1', 'formula2']);

/** What stands before or after the rows of a sheet, with its places shifted; what is nowhere any more is left out. @param prefix of its elements */
export function shiftedPlaces(xml: string, prefix: string, shift: Shift): string {
  let done = '';
  let at = 0;
  let gone: string | undefined;
  for (const { name, is, from, to } of xmlTags(xml)) {
    const plain = name.replace(/^x:/, '');
    if (gone !== undefined) {
      // Until its end all of it is left out.
      if (plain === gone && is === 'close') {
        gone = undefined;
        at = to;
      }
      continue;
    }
    const tag = xml.slice(from, to);
    let now = tag;
    const range = RANGES[plain];
    const ranges = range && is !== 'close' ? attributeOf(tag, range) : undefined;
    if (ranges !== undefined) {
      const moved = shiftedRanges(ranges, shift);
      now = moved === '' ? '' : withAttribute(tag, range!, moved);
      // One cell alone is not merged.
      if (plain === 'mergeCell' && !moved.includes(':')) now = '';
    } else if (plain === 'col' && shift.axis === 'column') now = shiftedColumns(tag, shift);
    if (now === tag) continue;
    done += xml.slice(at, from) + now;
    at = to;
    if (now === '' && is === 'open') gone = plain;
  }
  const whole = withTexts(done + xml.slice(at), (name) =>
    FORMULAS.has(name.replace(/^x:/, ''))
      ? (words) => shiftedFormula(words, (sheet) => sheet === undefined, shift)
      : undefined,
  );
  const p = prefix;
  // Lists that nothing is left of must not stand there empty; those that count say how many there are.
  return whole
    .replace(
      new RegExp(`<${p}(mergeCells|dataValidations|hyperlinks|cols)(?:\\s[^>]*)?>\\s*</${p}\\1>`, 'g'),
      '',
    )
    .replace(
      new RegExp(`<${p}(mergeCells|dataValidations)\\s[^>]*count="\\d+"[^>]*>`, 'g'),
      (tag, list: string) => {
        const one = list === 'mergeCells' ? 'mergeCell' : 'dataValidation';
        return withAttribute(
          tag,
          'count',
          String(whole.match(new RegExp(`<${p}${one}\\s`, 'g'))?.length ?? 0),
        );
      },
    );
}

/** What a sheet says of some columns, after columns have come in or left; new ones are as wide as the one before them. '': they are gone. */
function shiftedColumns(tag: string, { at, by }: Shift): string {
  const [min, max] = [Number(attributeOf(tag, 'min')) - 1, Number(attributeOf(tag, 'max')) - 1];
  const last = MOST_COLUMNS - 1;
  if (by > 0) {
    if (max < at - 1 || (max < at && at === 0)) return tag;
    const first = min >= at && !(at === 0 && min === 0) ? min + by : min;
    return withAttribute(
      withAttribute(tag, 'min', String(first + 1)),
      'max',
      String(Math.min(max + by, last) + 1),
    );
  }
  const first = shifted(min, { at, by }) ?? at;
  const end = shifted(max, { at, by }) ?? at - 1;
  return first > end
    ? ''
    : withAttribute(withAttribute(tag, 'min', String(first + 1)), 'max', String(end + 1));
}
