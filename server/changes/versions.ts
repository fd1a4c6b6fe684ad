import type { Words } from '../../core/describe/fields.ts';
import { emptyPlan, type Plan, type RecordValues } from '../../core/plan/plan.ts';
import { RECORD_NAMES, sameRecordValue } from '../../core/plan/words.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import { pastOf } from '../db/past.ts';
import { currentHash, needAllHere, needHere, newFolders, type Progress, type Proposal } from './proposal.ts';

/** One change of an item, as the Ledger has it. */
export interface Version {
  entryId: number;
  at: string;
  person: string;
  title: string;
  note: string;
  undone: boolean;
  /** Words and owner that it changed. */
  before: Partial<RecordValues>;
  after: Partial<RecordValues>;
  /** Its address before and after, where it moved. */
  moved: { from: string; to: string } | null;
  /** Hashes of its bytes, where they were replaced. */
  file: { before: string; after: string } | null;
}

const FIELDS = Object.keys(RECORD_NAMES) as (keyof typeof RECORD_NAMES)[];
const ofRecord = (values: Partial<RecordValues>): Partial<RecordValues> =>
  Object.fromEntries(Object.entries(values).filter(([field]) => FIELDS.includes(field as keyof Words)));

/** What became of an item, the newest first. Changes that others made to the file on the disk are not among them. */
export async function versionsOf(
  site: Pick<Site, 'reader' | 'items' | 'rows'>,
  itemId: number,
): Promise<Version[]> {
  const { path } = site.items.need(itemId);
  return (await pastOf(site, itemId, path)).map(({ entry, moved, file }) => ({
    entryId: entry.id,
    at: entry.at,
    person: entry.person,
    title: entry.title,
    note: entry.note,
    undone: entry.undoneBy !== null,
    before: ofRecord(entry.record?.before ?? {}),
    after: ofRecord(entry.record?.after ?? {}),
    moved,
    file,
  }));
}

/** Plans to bring back what one change took: the words it replaced, and the bytes. What else has changed since stays. */
export async function proposeBringBack(
  site: Pick<
    Site,
    'folder' | 'blobs' | 'index' | 'scanner' | 'reader' | 'items' | 'families' | 'rows' | 'pool'
  >,
  itemId: number,
  entryId: number,
): Promise<Proposal> {
  await site.scanner.scan();
  const item = needHere(site, itemId);
  const version = (await versionsOf(site, itemId)).find((one) => one.entryId === entryId);
  if (!version) throw new Fault('not-found', 'This version doesn’t exist.', 'Reload the record.');
  const plan = emptyPlan('describe', '');
  const day = version.at.slice(0, 10);
  const { owner, focal, review, due } = item;
  const current = { ...item.words, owner, focal, review, due };
  const before: Partial<RecordValues> = {};
  const after: Partial<RecordValues> = {};
  for (const field of FIELDS) {
    const wanted = version.before[field];
    if (wanted === undefined || sameRecordValue(wanted, current[field])) continue;
    Object.assign(before, { [field]: current[field] });
    Object.assign(after, { [field]: wanted });
  }
  if (Object.keys(after).length > 0)
    plan.records.push({ itemId, rowVersion: item.rowVersion, before, after });
  if (version.file) {
    const now = await currentHash(site, item.path);
    if (!site.blobs.has(version.file.before))
      plan.clashes.push({ path: item.path, why: 'This version is no longer kept.' });
    else if (now !== null && now !== version.file.before) {
      plan.kind = 'replace';
      plan.files.push({ do: 'write', path: item.path, before: now, after: version.file.before });
      await bringBackSizes(site, plan, item, entryId);
    }
  }
  plan.title = `Restore “${item.name}” as it was before ${day}`;
  plan.totals.items = 1;
  plan.folders = await newFolders(site, plan);
  return { plan };
}

/** The sizes of an image that were replaced with it come back with it. */
async function bringBackSizes(
  site: Pick<Site, 'blobs' | 'reader' | 'items' | 'families' | 'rows'>,
  plan: Plan,
  item: Item,
  entryId: number,
): Promise<void> {
  for (const size of site.items.some(site.families.sizesOfOne(item.id))) {
    const version = (await versionsOf(site, size.id)).find((one) => one.entryId === entryId);
    if (!version?.file || size.state !== 'here') continue;
    if (site.blobs.has(version.file.before))
      plan.files.push({ do: 'write', path: size.path, before: size.sha256, after: version.file.before });
    else plan.warnings.push(`“${size.path}”, a size of it, is unchanged: that version is no longer kept.`);
  }
}

/** Plans for each item the latest other bytes that are kept of it, at its address; what has none stays and is told. */
export async function proposeKept(
  site: Pick<Site, 'blobs' | 'scanner' | 'reader' | 'items' | 'rows'>,
  ids: readonly number[],
  progress?: Progress,
): Promise<Proposal> {
  await site.scanner.scan();
  const plan = emptyPlan('replace', '');
  const items = await needAllHere(site, ids);
  for (const [at, item] of items.entries()) {
    progress?.(at, items.length, 'versions looked up');
    const versions = await versionsOf(site, item.id);
    const kept = versions
      .flatMap(({ file }) => (file ? [file.after, file.before] : []))
      .find((sha256) => sha256 !== item.sha256 && site.blobs.has(sha256));
    if (kept) plan.files.push({ do: 'write', path: item.path, before: item.sha256, after: kept });
    else plan.warnings.push(`“${item.path}” is unchanged: no earlier version is kept.`);
  }
  const { length } = plan.files;
  plan.totals.items = length;
  plan.title = `Restore the kept version of ${length === 1 ? '1 file' : `${length} files`}`;
  return { plan };
}
