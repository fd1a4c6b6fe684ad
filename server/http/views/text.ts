import { parse } from 'csv-parse/sync';
import type { ItemText } from '../../../api/items.ts';
import { extensionOf } from '../../../core/address/path.ts';
import { PLAIN_TEXT, readText } from '../../media/document.ts';
import type { Site } from '../../app/site.ts';
import type { Item } from '../../db/item-rows.ts';

/** Rows of a table that are shown; the file itself has all. */
const SHOWN_ROWS = 500;

/** What an item says, to be read in place: a table for CSV, else text. */
export async function textOf(
  site: Pick<Site, 'folder' | 'blobs' | 'contents'>,
  item: Item,
): Promise<ItemText> {
  if (!PLAIN_TEXT.test(item.name))
    return { text: site.contents.get(item.sha256)?.text ?? '', rows: null, more: false };
  const file = item.state === 'here' ? await site.folder.locate(item.path) : site.blobs.get(item.sha256);
  const text = await readText(file);
  if (!/^\.(csv|tsv)$/.test(extensionOf(item.name))) return { text, rows: null, more: false };
  try {
    const rows = parse(text, {
      delimiter: delimiterOf(text),
      relax_quotes: true,
      relax_column_count: true,
      skip_empty_lines: true,
      to: SHOWN_ROWS + 1,
    });
    return { text, rows: rows.slice(0, SHOWN_ROWS), more: rows.length > SHOWN_ROWS };
  } catch {
    // A table that cannot be read as one is still text, and shown so.
    return { text, rows: null, more: false };
  }
}

/** The sign that its first line holds most of. */
function delimiterOf(text: string): string {
  const line = /^.*/.exec(text)![0];
  const count = (sign: string) => line.split(sign).length;
  return ['\t', ';', ','].reduce((best, sign) => (count(sign) > count(best) ? sign : best), ',');
}
