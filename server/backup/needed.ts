import type Database from 'better-sqlite3';

/** Content that a library can't do without, and what needs it. */
export interface Needed {
  sha256: string;
  by: string;
}

const UNDO = 'The undo of';

/** What records, the ledger and files at the door refer to, of a database that is only read. */
export function neededContent(db: Database.Database): Needed[] {
  const all = <Row>(sql: string) => db.prepare(sql).all() as Row[];
  const named = all<{ sha256: string; path: string; what: string }>(
    `select sha256, path, state as what from item where state in ('draft', 'aside') and sha256 <> ''
     union all
     select original_sha256, path, 'original' from item where original_sha256 is not null and state <> 'absent'
     union all
     select json_extract(edit, '$.original.of'), path, 'original' from item
       where edit <> '' and state <> 'absent' and json_extract(edit, '$.original.of') is not null`,
  );
  const WHAT: Readonly<Record<string, string>> = {
    draft: 'The draft',
    aside: 'The set-aside item',
    original: 'The original of',
  };
  return [
    ...named.map(({ sha256, path, what }) => ({ sha256, by: `${WHAT[what]} “${path}”` })),
    ...all<{ sha256: string; name: string }>("select sha256, name from arrival where sha256 <> ''").map(
      ({ sha256, name }) => ({ sha256, by: `“${name}”, which waits in Intake` }),
    ),
    ...all<{ sha256: string; title: string }>(
      `select ledger_bytes.sha256, min(title) as title from ledger_bytes join ledger on ledger.id = entry_id group by ledger_bytes.sha256`,
    ).map(({ sha256, title }) => ({ sha256, by: `${UNDO} “${title}”` })),
  ];
}

/**
 * What a library needs and hasn't got. What a change has written is not needed while it is on the site, and lost only to those who wrote
 * over it there: only what it has replaced must be kept.
 * @param has whether content is kept, or is that of a file of the site
 */
export function lackingContent(db: Database.Database, has: (sha256: string) => boolean): Needed[] {
  // As plans say it, and as record steps of drafts do within them.
  const says = (column: string) =>
    `(instr(${column}, '"before":"' || @sha256) > 0 or instr(${column}, 'sha256\\":\\"' || @sha256) > 0)`;
  const replaced = db.prepare(
    `select 1 from ledger_bytes where sha256 = @sha256 and (
       exists (select 1 from ledger_plan where entry_id = ledger_bytes.entry_id and ${says('plan')}) or
       exists (select 1 from ledger_part where entry_id = ledger_bytes.entry_id and ${says('steps')}))`,
  );
  const lacking = new Map<string, Needed>();
  for (const one of neededContent(db)) {
    if (has(one.sha256) || lacking.has(one.sha256)) continue;
    if (!one.by.startsWith(UNDO) || replaced.get({ sha256: one.sha256 })) lacking.set(one.sha256, one);
  }
  return [...lacking.values()];
}

/** The records of files that are on the site. */
export const filesHere = (db: Database.Database): { path: string; sha256: string }[] =>
  db.prepare("select path, sha256 from item where state = 'here' and sha256 <> ''").all() as {
    path: string;
    sha256: string;
  }[];

/** What is wrong with the database itself, each as a sentence. */
export function faultsOf(db: Database.Database): string[] {
  const broken = (db.pragma('integrity_check') as { integrity_check: string }[])
    .map((row) => row.integrity_check)
    .filter((said) => said !== 'ok');
  const lost = db.pragma('foreign_key_check') as { table: string; parent: string }[];
  return [
    ...broken.map((said) => `The database is damaged: ${said}.`),
    ...lost.map(({ table, parent }) => `A row of “${table}” refers to one of “${parent}” that isn’t there.`),
  ];
}
