import { stringify } from 'csv-stringify/sync';
import { breathe } from '../workers/breathe.ts';

/** Rows that are written at once. */
const AT_ONCE = 100;

/** Rows as CSV (RFC 4180) with CRLF line ends, any number of them, a part after the other. */
export async function* csvParts(rows: readonly (readonly unknown[])[]): AsyncGenerator<string> {
  for (let at = 0; at < rows.length; at += AT_ONCE) {
    yield stringify(rows.slice(at, at + AT_ONCE) as unknown[][], { record_delimiter: '\r\n' });
    await breathe();
  }
}

/** The same in one text. */
export async function csvOf(rows: readonly (readonly unknown[])[]): Promise<string> {
  const parts: string[] = [];
  for await (const part of csvParts(rows)) parts.push(part);
  return parts.join('');
}
