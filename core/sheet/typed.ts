import {
  dateToSerial,
  format,
  isDateFormat,
  isPercentFormat,
  isTextFormat,
  parseDate,
  parseTime,
} from 'numfmt';
import type { Cell } from './sheet.ts';

/** What typed words are taken for. */
export type Typed =
  | { as: 'nothing' }
  | { as: 'text'; text: string }
  /** @property pattern the number format that it brings along, for a cell that has none */
  | { as: 'number'; number: number; pattern?: string }
  | { as: 'truth'; truth: boolean }
  /** Without “=”. */
  | { as: 'formula'; formula: string };

const PLAIN = /^[-+]?(?:\d+(?:\.\d+)?|\.\d+)(?:e[-+]?\d{1,3})?$/i;
const GROUPED = /^[-+]?\d{1,3}(?:,\d{3})+(?:\.\d+)?$/;
/** With fewer than three digits behind it, a comma groups nothing. */
const COMMA = /^[-+]?\d+,\d{1,2}$/;
const CURRENCY = /[$€£¥]|\b(?:kr|CHF|EUR|USD|GBP)\b/;

function numberOf(words: string): number | undefined {
  if (GROUPED.test(words)) return Number(words.replaceAll(',', ''));
  if (COMMA.test(words)) return Number(words.replace(',', '.'));
  return PLAIN.test(words) ? Number(words) : undefined;
}

/** Year, month and day, or hours and minutes, that can be read in one way only: with a year first, or the month as a word. */
const SURE_DATE =
  /^\d{4}-\d{1,2}-\d{1,2}$|^\d{1,2} [A-Za-z]{3,9}\.? \d{4}$|^[A-Za-z]{3,9}\.? \d{1,2}, \d{4}$/;
const TIME = /^\d{1,2}:\d{2}(?::\d{2})?(?: ?[ap]m)?$/i;

/** A date as the format of its cell orders it: by points, slashes or hyphens. */
function dateInOrder(words: string, pattern: string): number | undefined {
  const parts = /^(\d{1,4})[./-](\d{1,2})[./-](\d{1,4})$/.exec(words)?.slice(1).map(Number);
  const order = pattern
    .replace(/"[^"]*"|\\.|\[[^[\]]*\]/g, '')
    .match(/y+|m+|d+/gi)
    ?.map((one) => one[0]!.toLowerCase());
  if (!parts || !order || order.slice(0, 3).sort().join('') !== 'dmy') return undefined;
  const [year, month, day] = ['y', 'm', 'd'].map((one) => parts[order.indexOf(one)]!) as [
    number,
    number,
    number,
  ];
  if (month < 1 || month > 12 || day < 1 || day > 31) return undefined;
  return dateToSerial([year < 100 ? 2000 + year : year, month, day]) ?? undefined;
}

/**
 * What somebody means by what they type into a cell, as in any spreadsheet; but for what can be read in two ways: a date in figures is one only
 * where the cell shows dates, and what has a zero in front, as a code or a telephone number, stays a text. “'” in front makes anything a text.
 * @param pattern the number format of the cell
 */
export function typed(words: string, pattern = 'General'): Typed {
  if (words === '') return { as: 'nothing' };
  if (words.startsWith("'")) return { as: 'text', text: words.slice(1) };
  if (isTextFormat(pattern)) return { as: 'text', text: words };
  if (words.startsWith('=') && words.length > 1) return { as: 'formula', formula: words.slice(1).trim() };
  const text = { as: 'text', text: words } as const;
  const plain = words.trim();
  if (/^[-+]?0\d/.test(plain) && !/^0\d?:/.test(plain) && !isDateFormat(pattern)) return text;
  if (/^(?:true|false)$/i.test(plain)) return { as: 'truth', truth: /^t/i.test(plain) };
  if (plain.endsWith('%')) {
    const number = numberOf(plain.slice(0, -1).trim());
    if (number !== undefined)
      return {
        as: 'number',
        number: rounded(number / 100),
        pattern: Number.isInteger(number) ? '0%' : '0.00%',
      };
  }
  const amount = CURRENCY.test(pattern) ? plain.replace(CURRENCY, '').trim() : plain;
  const number = numberOf(amount);
  // In a cell of percents, 12 means 12 %.
  if (number !== undefined)
    return { as: 'number', number: isPercentFormat(pattern) ? rounded(number / 100) : number };
  const dated = isDateFormat(pattern) ? dateInOrder(plain, pattern) : undefined;
  if (dated !== undefined) return { as: 'number', number: dated };
  const date = SURE_DATE.test(plain) ? parseDate(plain) : TIME.test(plain) ? parseTime(plain) : undefined;
  if (date && typeof date.value === 'number')
    return { as: 'number', number: date.value, pattern: TIME.test(plain) ? 'h:mm' : 'yyyy-mm-dd' };
  return text;
}

const rounded = (number: number) => Number(number.toPrecision(15));

/** What stands in the field while a cell is edited: typed again, it means the same. */
export function inputOf(cell: Cell | undefined): string {
  if (!cell) return '';
  if (cell.formula !== undefined) return cell.formula;
  const { pattern = 'General', number } = cell;
  if (number !== undefined) {
    if (isPercentFormat(pattern)) return `${rounded(number * 100)}%`;
    if (!isDateFormat(pattern) || number < 1)
      return isDateFormat(pattern) ? format('hh:mm:ss', number) : String(number);
    return Number.isInteger(number) ? format('yyyy-mm-dd', number) : cell.text;
  }
  if (cell.kind !== 'text' || cell.text === '') return cell.text;
  const again = typed(cell.text, pattern);
  return again.as === 'text' && again.text === cell.text ? cell.text : `'${cell.text}`;
}
