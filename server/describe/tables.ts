import type { TableView } from '../../api/items.ts';
import type { SitePath } from '../../core/address/path.ts';
import { addressOf } from '../../core/address/redirects.ts';
import { TEXT_FIELD_KEYS, TEXT_FIELDS } from '../../core/describe/fields.ts';
import { neutralCell, ownColumn, readingTable } from '../../core/describe/table.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import { breathe } from '../workers/breathe.ts';
import { csvParts } from './csv.ts';
import type { Item } from '../db/item-rows.ts';

/** The words of items as a table, in parts: RFC 4180, UTF-8 with its mark (spreadsheet programs want it), CRLF. */
export async function* wordsTable(
  site: Pick<Site, 'index' | 'ownFields'>,
  items: readonly Item[],
): AsyncGenerator<string> {
  const own = site.ownFields.all();
  const rows: string[][] = [
    [
      'id',
      'version',
      'path',
      'address',
      ...TEXT_FIELD_KEYS.map((field) => TEXT_FIELDS[field].column as string),
      'decorative',
      'tags',
      ...own.map((field) => ownColumn(field.name)),
    ],
  ];
  for (const item of items) {
    rows.push(
      [
        String(item.id),
        String(item.rowVersion),
        item.path,
        addressOf(item.path, site.index.map.roots),
        ...TEXT_FIELD_KEYS.map((field) => item.words[field]),
        item.words.decorative ? 'yes' : 'no',
        item.words.tags.join('; '),
        ...own.map((field) => item.words.own[field.name] ?? ''),
      ].map(neutralCell),
    );
    await breathe();
  }
  yield '\ufeff';
  yield* csvParts(rows);
}

/** Rows that are read at once. */
const AT_ONCE = 100;
/** Rows that a table may have, and lines that are told as wrong. */
const MOST_ROWS = 100_000;
const MOST_FAULTS = 500;

/** Reads a table that comes back against the records as they are. @throws Fault for a text that is no table */
export async function readWordsTable(
  site: Pick<Site, 'index' | 'items' | 'ownFields' | 'pool'>,
  text: string,
): Promise<TableView> {
  let parts: string[];
  try {
    parts = await site.pool.run('table', {
      text,
      delimiter: delimiterOf(text),
      most: MOST_ROWS + 2,
      together: AT_ONCE,
    });
  } catch (error) {
    throw new Fault(
      'bad-request',
      `The file can’t be read: ${(error as Error).message}.`,
      'Save it as CSV in UTF-8 and choose it again.',
    );
  }
  const body: string[][] = [];
  for (const part of parts) {
    body.push(...(JSON.parse(part) as string[][]));
    await breathe();
  }
  const head = body.shift();
  if (!head)
    throw new Fault('bad-request', 'The file is empty.', 'The first line must contain the column names.');
  if (body.length > MOST_ROWS)
    throw new Fault(
      'too-large',
      `The file has more than ${MOST_ROWS.toLocaleString('en')} rows.`,
      'Split it into several files.',
    );
  const versions = new Map<number, number>();
  const steps = readingTable(
    head,
    body,
    (by, value) => {
      const item =
        by === 'id'
          ? /^\d{1,15}$/.test(value)
            ? site.items.get(Number(value))
            : undefined
          : site.items.atPath(by === 'path' ? value : pathOf(site, value));
      if (item) versions.set(item.id, item.rowVersion);
      return item?.state === 'here' ? item : undefined;
    },
    site.ownFields.all(),
  );
  let step = steps.next();
  for (; !step.done; step = steps.next()) await breathe();
  const reading = step.value;
  const { length } = reading.faults;
  if (length > MOST_FAULTS)
    reading.faults = [
      ...reading.faults.slice(0, MOST_FAULTS),
      {
        line: reading.faults[MOST_FAULTS]!.line,
        why: `${(length - MOST_FAULTS).toLocaleString('en')} more lines can’t be used either.`,
      },
    ];
  return {
    ...reading,
    changes: reading.changes.map((one) => ({ ...one, rowVersion: versions.get(one.itemId)! })),
  };
}

/** The file that an address leads to, from the folders that are served as the root; what is no address leads nowhere. */
function pathOf(site: Pick<Site, 'index'>, address: string): SitePath {
  const fromRoot = `/${address.replace(/^https?:\/\/[^/]*/i, '').replace(/^\/+/, '')}`;
  const target = site.index.map.resolve(fromRoot, 'index.html');
  return target.to === 'file' ? target.path : '';
}

/** Comma, semicolon or tab: whichever the first line holds most of, outside quotes. */
function delimiterOf(text: string): string {
  const head = (/^[^\r\n]*/.exec(text.replace(/^\ufeff/, ''))?.[0] ?? '').replace(/"[^"]*"/g, '');
  const counted = [',', ';', '\t'].map((one) => [head.split(one).length, one] as const);
  return counted.sort((a, b) => b[0] - a[0])[0]![1];
}
