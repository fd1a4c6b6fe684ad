import { each, filter, mapOf, setOf } from '../../core/paced.ts';
import { baseName, type SitePath } from '../../core/address/path.ts';
import type { Db } from '../db/database.ts';
import type { Families } from '../db/families.ts';
import type { Files } from '../db/files.ts';
import type { ItemNames } from '../db/item-names.ts';
import type { ItemRecords } from '../db/item-records.ts';
import type { ItemUse } from '../db/item-use.ts';
import type { ItemPlace, Items } from '../db/items.ts';
import type { References } from '../db/references.ts';
import type { ShownWidths } from '../db/shown-widths.ts';
import type { Survey } from './scan.ts';
import type { FileFacts } from '../../core/media/facts.ts';
import { breathe } from '../workers/breathe.ts';

export interface ScanStore {
  db: Db;
  files: Files;
  references: References;
  items: Items;
  records: ItemRecords;
  itemNames: ItemNames;
  itemUse: ItemUse;
  widths: ShownWidths;
  families: Families;
  /** Bytes that plans have written: a file that gets them was not changed by others. */
  own: ReadonlySet<string>;
}

/**
 * Writes a survey to the database in small transactions, so that the server goes on answering between them. Each may be
 * done again: what a crash or a failure leaves half stored is stored whole the next time.
 * @param whole what is stored is not of these files: every item is compared with its file
 * @param held items stay as they are, whatever has become of their files
 */
export async function reconcileSurvey(
  store: ScanStore,
  survey: Survey,
  { whole, held }: { whole: boolean; held: boolean },
): Promise<void> {
  const { db, files, references, itemNames, itemUse, widths, families } = store;
  const inBatches = async <Value>(values: readonly Value[], each: (value: Value) => void) => {
    for (let at = 0; at < values.length; at += 50) {
      db.write(() => values.slice(at, at + 50).forEach(each));
      await breathe();
    }
  };
  await inBatches([...survey.changed], (path) => files.save(survey.files.get(path)!));
  await inBatches([...survey.removed], (path) => files.remove(path));
  const pages = await filter(
    survey.changed,
    breathe,
    (path) => survey.files.get(path)?.reading !== undefined,
  );
  const gone = await filter(survey.removed, breathe, (path) => /\.(?:x?html?|css)$/i.test(path));
  if (widths.measuredCount() > 0) await inBatches([...pages, ...gone], (path) => widths.forget(path));
  const pagesChanged = [...survey.placements.keys()];
  const offersSizes = async () => {
    for (let at = 0; at < pagesChanged.length; at += 250) {
      if (references.offersSizes(pagesChanged.slice(at, at + 250))) return true;
      await breathe();
    }
    return false;
  };
  const offeredBefore = await offersSizes();
  await inBatches([...survey.placements], ([page, placements]) =>
    references.replacePlacements(page, placements),
  );
  await inBatches([...survey.mentions], ([page, mentions]) => references.replaceMentions(page, mentions));
  if (whole) await references.dropOfOthers(survey.files);
  if (held) return;
  await reconcile(store, survey, whole, inBatches);
  const offered = offeredBefore || (await offersSizes());
  const media = [...survey.changed].some((path) => survey.files.get(path)?.item) || survey.removed.size > 0;
  if (whole || offered || media) await families.refresh();
  await itemUse.refresh();
  if (files.readByOther()) {
    itemNames.uncheck('');
    files.markRead();
  }
  await itemNames.check();
}

/** Items at some paths, asked for in slices. */
async function hereAt(items: Items, paths: readonly SitePath[]): Promise<ItemPlace[]> {
  const found: ItemPlace[] = [];
  for (let at = 0; at < paths.length; at += 1000) {
    await breathe();
    for (const one of items.hereAt(paths.slice(at, at + 1000))) found.push(one);
  }
  return found;
}

/**
 * Items follow their files. A file at the place of an item is that item, whatever its bytes; also of one whose file was gone,
 * however long. The same bytes at another place, while the old one is empty, are an item that has moved, where no other could be
 * meant. A record whose file is gone stays, with all that it says. Anything else is new.
 */
async function reconcile(
  { items, records, own }: ScanStore,
  survey: Survey,
  whole: boolean,
  inBatches: <Value>(values: readonly Value[], each: (value: Value) => void) => Promise<void>,
): Promise<void> {
  const here = await mapOf(
    whole ? await items.here() : await hereAt(items, [...survey.changed, ...survey.removed]),
    breathe,
    (item) => [item.path, item],
  );
  const gone: ItemPlace[] = [];
  // A file may be an item no longer although it lies there: the layout says now where media lie.
  const others: ItemPlace[] = [];
  await each(here.values(), breathe, (item) => {
    const facts = survey.files.get(item.path);
    if (!facts) gone.push(item);
    else if (!facts.item) others.push(item);
  });

  const stays: { facts: FileFacts; item: ItemPlace }[] = [];
  const unknown: FileFacts[] = [];
  await each(whole ? survey.files.keys() : survey.changed, breathe, (path) => {
    const facts = survey.files.get(path)!;
    if (!facts.item) return;
    const item = here.get(facts.path);
    if (!item) unknown.push(facts);
    else if (!whole || survey.changed.has(facts.path) || item.sha256 !== facts.sha256)
      stays.push({ facts, item });
  });
  const backs: { facts: FileFacts; item: ItemPlace }[] = [];
  const added: FileFacts[] = [];
  const missing = unknown.length > 0 ? items.missing() : [];
  const missingAt = new Map<SitePath, ItemPlace[]>();
  await each(missing, breathe, (item) => {
    const there = missingAt.get(item.path);
    if (there) there.push(item);
    else missingAt.set(item.path, [item]);
  });
  await each(unknown, breathe, (facts) => {
    const item = backAt(items, missingAt.get(facts.path) ?? [], facts);
    if (item) backs.push({ facts, item });
    else added.push(facts);
  });
  const known = await setOf(backs, breathe, ({ item }) => item.id);
  const empty = await filter(
    [...gone, ...missing],
    breathe,
    (item) => !known.has(item.id) && !survey.files.has(item.path),
  );
  // What a plan has made there is new, though it may have the bytes of something that is missing.
  const moved = await movedAmong(
    await filter(added, breathe, (facts) => !own.has(madeAt(facts.path, facts.sha256))),
    empty,
  );

  await inBatches(others, (item) => records.setPlace(item.id, item.path, 'absent'));
  await inBatches(stays, ({ facts, item }) => {
    const byOthers = item.sha256 !== '' && item.sha256 !== facts.sha256 && !own.has(facts.sha256);
    records.setFacts(item.id, facts, byOthers);
  });
  await inBatches(backs, ({ facts, item }) => {
    records.setPlace(item.id, facts.path, 'here');
    records.setFacts(item.id, facts, item.sha256 !== facts.sha256 && !own.has(facts.sha256));
  });
  const followed = await setOf(moved.values(), breathe, (item) => item.id);
  await inBatches(await filter(gone, breathe, (item) => !followed.has(item.id)), (item) =>
    records.setPlace(item.id, item.path, 'absent', true),
  );
  await inBatches(added, (facts) => {
    const item = moved.get(facts.path);
    if (item) records.followMove(item.id, item.path, facts.path);
    else
      records.add({
        path: facts.path,
        state: 'here',
        facts,
        addedAt: new Date(facts.mtimeMs).toISOString(),
        addedBy: null,
        originalName: null,
      });
  });
}

/** How it is noted that a plan has made a file: its path with its bytes. */
export const madeAt = (path: SitePath, sha256: string): string => `${sha256} ${path}`;

/** The record that a file belongs to which is at its place again. @param there records of missing files with its path */
function backAt(items: Items, there: readonly ItemPlace[], facts: FileFacts): ItemPlace | undefined {
  // Set aside, taken back or left out, and there again as it was.
  if (there.length === 0) return items.elsewhereAt(facts.path, facts.sha256);
  return there.find((item) => item.sha256 === facts.sha256) ?? there.at(-1);
}

/**
 * The items that have moved to new files, by path: the same bytes, and no other record or file that could be meant as well,
 * or one of the same name. The hash of a file that could not be read is none.
 */
async function movedAmong(
  added: readonly FileFacts[],
  empty: readonly ItemPlace[],
): Promise<Map<SitePath, ItemPlace>> {
  const moved = new Map<SitePath, ItemPlace>();
  if (added.length === 0 || empty.length === 0) return moved;
  const group = async <One extends { sha256: string; path: SitePath }>(
    list: readonly One[],
    named: boolean,
  ) => {
    const groups = new Map<string, One[]>();
    await each(list, breathe, (one) => {
      if (one.sha256 === '') return;
      const key = named ? `${one.sha256} ${baseName(one.path)}` : one.sha256;
      const there = groups.get(key);
      if (there) there.push(one);
      else groups.set(key, [one]);
    });
    return groups;
  };
  let files = added;
  let records = empty;
  for (const named of [true, false]) {
    const byBytes = await group(records, named);
    await each(await group(files, named), breathe, ([key, places]) => {
      const items = byBytes.get(key) ?? [];
      if (items.length === 1 && places.length === 1) moved.set(places[0]!.path, items[0]!);
    });
    const taken = await setOf(moved.values(), breathe, (item) => item.id);
    files = await filter(added, breathe, (facts) => !moved.has(facts.path));
    records = await filter(empty, breathe, (item) => !taken.has(item.id));
  }
  return moved;
}
