import { createHash, randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { baseName, folderOf, isWithin, joinPath, pathFault, type SitePath } from '../../core/address/path.ts';
import {
  readRedirects,
  redirectsAfter,
  REDIRECTS_FILE,
  writeRedirects,
} from '../../core/address/redirects.ts';
import { cleanTag, type Words } from '../../core/describe/record.ts';
import { planAddresses, type MovingItem } from '../../core/plan/address.ts';
import { planAside, planRestore } from '../../core/plan/aside.ts';
import { inverseFiles, inversePages, inverseRecords } from '../../core/plan/inverse.ts';
import { emptyPlan, type Plan, type RecordValues } from '../../core/plan/plan.ts';
import { planRecords, planWords, type RecordChange } from '../../core/plan/words.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../site/site.ts';
import { ALL_HERE } from '../store/item-query.ts';
import type { Item } from '../store/items.ts';

/** A computed plan with the new bytes that it would write, by hash. */
export interface Proposal {
  plan: Plan;
  contents: Map<string, Uint8Array>;
}

/** Plans a change of one record's words. @throws Fault 'stale-record' when the record is newer than `rowVersion` */
export function proposeWords(site: Site, id: number, rowVersion: number, changes: Partial<Words>): Proposal {
  const item = site.items.need(id);
  if (item.rowVersion !== rowVersion) throw site.items.staleRecord(id);
  const words = changes.tags
    ? { ...changes, tags: site.items.spelling(changes.tags.map(cleanTag)) }
    : changes;
  return { plan: planWords(item, words), contents: new Map() };
}

/** Plans a new address for one item: another name, another folder, or both. */
export async function proposeAddress(
  site: Site,
  id: number,
  folder: SitePath,
  name: string,
): Promise<Proposal> {
  await site.scan();
  const item = needHere(site, id);
  const to = joinPath(folder, name.normalize('NFC'));
  return addresses(site, [item], new Map([[id, to]]));
}

/** Plans one change of many records. @throws Fault 'not-found' for a person who is not there */
export function proposeRecords(site: Site, ids: readonly number[], change: RecordChange): Proposal {
  if (change.owner && !site.people.all().some((person) => person.name === change.owner))
    throw new Fault('not-found', `There is nobody called “${change.owner}”.`, 'Choose one of the list.');
  const addTags = change.addTags && site.items.spelling(change.addTags.map(cleanTag));
  return { plan: planRecords(site.items.some(ids), { ...change, addTags }), contents: new Map() };
}

/** Plans to move items to another folder, under their own names. */
export async function proposeMove(site: Site, ids: readonly number[], folder: SitePath): Promise<Proposal> {
  await site.scan();
  const items = ids.map((id) => needHere(site, id));
  const proposal = await addresses(
    site,
    items,
    new Map(items.map((item) => [item.id, joinPath(folder, item.name)])),
  );
  proposal.plan.kind = 'move';
  return proposal;
}

/** Plans another address for a folder: all items within go along. Pages within stand in the way. */
export async function proposeFolder(site: Site, folder: SitePath, to: SitePath): Promise<Proposal> {
  await site.scan();
  const items = site.items.some(site.items.ids({ ...ALL_HERE, folder }));
  if (items.length === 0)
    throw new Fault('not-found', `No items lie in “${folder}”.`, 'Choose another folder.');
  if (to !== folder && isWithin(folder, to))
    throw new Fault('bad-request', 'A folder cannot lie in itself.', 'Choose a place outside of it.');
  const within = (path: SitePath) =>
    to === '' ? path.slice(folder.length + 1) : to + path.slice(folder.length);
  const proposal = await addresses(site, items, new Map(items.map((item) => [item.id, within(item.path)])));
  const { plan } = proposal;
  const own = new Set(items.map((item) => item.path));
  const others = [...site.paths].filter((path) => isWithin(folder, path) && !own.has(path));
  for (const path of others.slice(0, 20))
    plan.clashes.push({
      path,
      why: 'It is a page or another file that is no item, so the folder cannot move as a whole. Move its items instead.',
    });
  plan.kind = 'move';
  plan.title =
    folderOf(folder) === folderOf(to)
      ? `Rename the folder “${baseName(folder)}” to “${baseName(to)}”`
      : `Move the folder “${folder}” to “${to || 'the site’s root'}”`;
  plan.leaves = [...new Set(items.map((item) => item.folder))]
    .flatMap((one) => upTo(one, folder))
    .filter((one, at, all) => all.indexOf(one) === at)
    .sort((a, b) => b.length - a.length);
  return proposal;
}

/** A folder and those above it, up to one of them. */
function upTo(folder: SitePath, top: SitePath): SitePath[] {
  return folder === top ? [folder] : [folder, ...upTo(folderOf(folder), top)];
}

/** Plans another name for a tag, or to take it off every item. */
export function proposeTag(site: Site, tag: string, to: string | null): Proposal {
  const query = { join: 'all', not: false, of: [{ test: 'tag', value: tag, not: false }] } as const;
  const items = site.items.some(site.items.ids({ ...ALL_HERE, where: { ...query, of: [...query.of] } }));
  // Only another case of the same letters is meant to be written as it is given.
  const sameLetters = to?.toLowerCase() === tag.toLowerCase();
  const addTags = to === null ? [] : sameLetters ? [cleanTag(to)] : site.items.spelling([cleanTag(to)]);
  const plan = planRecords(items, { removeTags: [tag], addTags });
  const there = to !== null && site.items.tags().some((one) => one.name.toLowerCase() === to.toLowerCase());
  plan.title =
    to === null
      ? `Take the tag “${tag}” off ${plan.records.length} items`
      : `${there && !sameLetters ? 'Merge' : 'Rename'} the tag “${tag}” ${there && !sameLetters ? 'into' : 'to'} “${to}”, on ${plan.records.length} items`;
  return { plan, contents: new Map() };
}

async function addresses(site: Site, items: Item[], to: ReadonlyMap<number, SitePath>): Promise<Proposal> {
  const pagePaths = new Set(items.flatMap((item) => [...site.references.pagesShowing(item.path), item.path]));
  const pages = [];
  for (const path of pagePaths) {
    if (!site.factsOf(path)?.reading) continue;
    const bytes = await site.folder.read(path);
    pages.push({ path, bytes, sha256: sha256Of(bytes) });
  }
  const moving: MovingItem[] = items.map(({ id, path, sha256, rowVersion }) => ({
    id,
    path,
    sha256,
    rowVersion,
  }));
  const mentions = items.flatMap((item) => site.references.mentionsOf(item.path));
  const { plan, contents } = planAddresses(moving, to, {
    site: site.siteMap,
    paths: site.paths,
    pages,
    mentions,
  });
  if (plan.clashes.length > 0 || plan.records.length === 0) return { plan, contents: new Map() };
  const proposal: Proposal = { plan, contents: new Map() };
  const moves = new Map(
    plan.files.flatMap((step) => (step.do === 'move' ? [[step.from, step.to] as const] : [])),
  );
  for (const page of contents) {
    // A drawing that moves and is rewritten: its new bytes go to the new place after the move.
    const path = moves.get(page.path) ?? page.path;
    plan.files.push({ do: 'write', path, before: page.beforeSha256, after: keep(proposal, page.bytes) });
  }
  await addRedirects(site, proposal, moves);
  plan.folders = newFolders(site, plan);
  return proposal;
}

async function addRedirects(
  site: Site,
  proposal: Proposal,
  moves: ReadonlyMap<SitePath, SitePath>,
): Promise<void> {
  const facts = await site.folder.facts(REDIRECTS_FILE);
  const before = facts ? await site.folder.read(REDIRECTS_FILE) : undefined;
  let redirects;
  try {
    redirects = redirectsAfter(before ? readRedirects(before.toString('utf8')) : [], moves);
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
    proposal.plan.clashes.push({
      path: REDIRECTS_FILE,
      why: `${error.message} Mend or remove that file first.`,
    });
    return;
  }
  const bytes = new TextEncoder().encode(writeRedirects(redirects));
  const after = keep(proposal, bytes);
  const beforeSha = before ? sha256Of(before) : null;
  if (after !== beforeSha)
    proposal.plan.files.push({ do: 'write', path: REDIRECTS_FILE, before: beforeSha, after });
}

export async function proposeAside(site: Site, ids: readonly number[]): Promise<Proposal> {
  await site.scan();
  const items = ids.map((id) => needHere(site, id));
  return {
    plan: planAside(items.map((item) => ({ ...item, mentions: site.references.mentionsOf(item.path) }))),
    contents: new Map(),
  };
}

export async function proposeRestore(site: Site, ids: readonly number[]): Promise<Proposal> {
  await site.scan();
  const items = ids.map((id) => site.items.need(id));
  for (const item of items) {
    if (item.state !== 'aside')
      throw new Fault(
        'bad-request',
        `“${item.name}” is not set aside.`,
        'Reload the list of set-aside items.',
      );
  }
  const plan = planRestore(items, site.paths);
  plan.folders = newFolders(site, plan);
  return { plan, contents: new Map() };
}

/** A file on its way to the site: as a new item, whose record is there already, or as new bytes of one. */
export type Incoming =
  | { do: 'create'; path: SitePath; sha256: string; itemId: number; rowVersion: number }
  | { do: 'replace'; path: SitePath; sha256: string; itemId: number; before: string };

export function proposeBringIn(site: Site, incoming: readonly Incoming[]): Proposal {
  const folders = new Set(incoming.map((one) => folderOf(one.path)));
  const [only] = folders;
  const where = folders.size === 1 ? `“${only || 'the site’s root'}”` : `${folders.size} folders`;
  const created = incoming.filter((one) => one.do === 'create');
  const replaced = incoming.filter((one) => one.do === 'replace');
  const name = (list: readonly Incoming[]) =>
    list.length === 1 ? `“${baseName(list[0]!.path)}”` : `${list.length} items`;
  const title = [
    ...(created.length > 0 ? [`Bring in ${name(created)} to ${where}`] : []),
    ...(replaced.length > 0 ? [`${created.length > 0 ? 'replace' : 'Replace'} ${name(replaced)}`] : []),
  ].join(', ');
  const plan = emptyPlan('bring-in', title);
  for (const one of incoming) {
    const fault = pathFault(one.path);
    if (fault) plan.clashes.push({ path: one.path, why: fault });
    plan.totals.items++;
    if (one.do === 'replace') {
      plan.files.push({ do: 'write', path: one.path, before: one.before, after: one.sha256 });
      continue;
    }
    plan.files.push({ do: 'create', path: one.path, sha256: one.sha256 });
    plan.records.push({
      itemId: one.itemId,
      rowVersion: one.rowVersion,
      before: { state: 'absent', path: one.path },
      after: { state: 'here', path: one.path },
    });
  }
  plan.folders = newFolders(site, plan);
  return { plan, contents: new Map() };
}

/**
 * Plans to take a ledger entry back. Pages that nobody changed since get their exact bytes again; in pages that did
 * change, only the addresses are turned back. What later changes stand in the way is said as clashes.
 */
export async function proposeUndo(site: Site, entryId: number): Promise<Proposal> {
  await site.scan();
  const entry = site.rows.get(entryId);
  if (!entry || entry.state !== 'done')
    throw new Fault('not-found', `There is no ledger entry ${entryId}.`, 'Reload the Ledger.');
  if (entry.undoneBy !== null)
    throw new Fault(
      'bad-request',
      'This change has been undone already.',
      'Undo that undo instead, if you want it back.',
    );
  const original = entry.plan;
  const plan = emptyPlan(
    'undo',
    original.kind === 'undo' ? `Redo: ${original.title.replace(/^Undo: /, '')}` : `Undo: ${entry.title}`,
  );
  plan.undoes = entryId;
  plan.totals = { ...original.totals, bytesFreed: 0 };
  const proposal: Proposal = { plan, contents: new Map() };

  plan.records = inverseRecords(original.records, (id) => site.items.need(id).rowVersion);
  for (const step of plan.records) addRecordClashes(site, plan, step.itemId, step.before);

  const moves = new Map(
    original.files.flatMap((step) => (step.do === 'move' ? [[step.to, step.from] as const] : [])),
  );
  const files = inverseFiles(original.files);
  const changedSince: SitePath[] = [];
  for (const step of files) {
    if (step.do !== 'write' || step.path === REDIRECTS_FILE) continue;
    if ((await currentHash(site, step.path)) !== step.before) changedSince.push(step.path);
  }
  if (changedSince.length > 0 && moves.size > 0 && plan.clashes.length === 0) {
    const items = plan.records.map((step) => needHere(site, step.itemId));
    const again = await addresses(
      site,
      items,
      new Map(plan.records.map((step) => [step.itemId, step.after.path!])),
    );
    again.plan.warnings.push(
      ...changedSince.map(
        (path) =>
          `“${path}” has changed since. Only the addresses in it are turned back; the rest stays as it is now.`,
      ),
    );
    return {
      contents: again.contents,
      plan: { ...again.plan, kind: 'undo', title: plan.title, undoes: entryId, folders: original.folders },
    };
  }
  plan.pages = inversePages(original);
  plan.folders = original.kind === 'undo' ? [] : original.folders;
  for (const step of files) {
    if (
      step.do === 'write' &&
      step.path === REDIRECTS_FILE &&
      (await currentHash(site, step.path)) !== step.before
    ) {
      await addRedirects(site, proposal, moves);
      continue;
    }
    plan.files.push(step);
    await addFileClashes(site, plan, step);
  }
  if (plan.clashes.length > 0) {
    for (const later of site.rows.laterThan(entryId)) {
      plan.warnings.push(`Later change: “${later.title}” by ${later.person}. Undo that one first.`);
    }
  }
  return proposal;
}

function addRecordClashes(site: Site, plan: Plan, id: number, expected: Partial<RecordValues>): void {
  const item = site.items.need(id);
  const { path, state, owner } = item;
  const current: Record<string, unknown> = { ...item.words, path, state, owner };
  for (const [field, value] of Object.entries(expected)) {
    if (JSON.stringify(current[field]) === JSON.stringify(value)) continue;
    plan.clashes.push({
      path: item.path,
      why: `Its ${field} was changed again later${item.changedBy ? ` by ${item.changedBy}` : ''}.`,
    });
  }
}

async function addFileClashes(site: Site, plan: Plan, step: Plan['files'][number]): Promise<void> {
  if (step.do === 'move' || step.do === 'remove') {
    const path = step.do === 'move' ? step.from : step.path;
    const now = await currentHash(site, path);
    if (now === null) plan.clashes.push({ path, why: 'The file is not there any more.' });
    else if (now !== step.sha256) plan.clashes.push({ path, why: 'The file has other content now.' });
  }
  if (step.do === 'write' && (await currentHash(site, step.path)) !== step.before) {
    plan.clashes.push({ path: step.path, why: 'The file has changed since.' });
  }
  if (step.do === 'move' || step.do === 'create') {
    const path = step.do === 'move' ? step.to : step.path;
    if ((await site.folder.clashes(path)).length > 0)
      plan.clashes.push({ path, why: 'Another file has this address now.' });
  }
  if (step.do === 'remove' && site.items.atPath(step.path)?.use === 'placed') {
    plan.clashes.push({ path: step.path, why: 'It is placed on a page now. Take it off the page first.' });
  }
}

/** Applies a proposal: its new bytes go to the content store, then the ledger does the rest; then the site is read again. */
export async function applyProposal(site: Site, proposal: Proposal, personId: number): Promise<number> {
  for (const [sha256, bytes] of proposal.contents) {
    if ((await site.blobs.put(bytes)) !== sha256) throw new Error('content and hash disagree');
  }
  const id = await site.ledger.apply(proposal.plan, personId);
  if (proposal.plan.files.length > 0) await site.scan();
  return id;
}

function needHere(site: Site, id: number): Item {
  const item = site.items.need(id);
  if (item.state !== 'here') {
    throw new Fault(
      'bad-request',
      `“${item.name}” is not on the site.`,
      item.state === 'aside' ? 'Restore it first.' : 'Its file was taken away.',
    );
  }
  return item;
}

function newFolders(site: Site, plan: Plan): SitePath[] {
  const made = new Set<SitePath>();
  for (const step of plan.files) {
    for (
      let folder = folderOf(step.do === 'move' ? step.to : step.path);
      folder !== '';
      folder = folderOf(folder)
    ) {
      if (!existsSync(join(site.folder.root, folder))) made.add(folder);
    }
  }
  return [...made].sort((a, b) => a.length - b.length);
}

async function currentHash(site: Site, path: SitePath): Promise<string | null> {
  const facts = await site.folder.facts(path);
  return facts ? site.pool.run('hash', { file: await site.folder.locate(path) }, 600_000) : null;
}

function keep(proposal: Proposal, bytes: Uint8Array): string {
  const sha256 = sha256Of(bytes);
  proposal.contents.set(sha256, bytes);
  return sha256;
}

function sha256Of(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex');
}

/** Plans that were shown and may be applied, by id. They live in memory: after a restart a plan is computed anew. */
export class Proposals {
  private readonly kept = new Map<string, Proposal>();

  keep(proposal: Proposal): string {
    const id = randomUUID();
    this.kept.set(id, proposal);
    if (this.kept.size > 50) this.kept.delete(this.kept.keys().next().value!);
    return id;
  }

  /** Takes a plan out, to apply it once. @throws Fault 'not-found' */
  take(id: string): Proposal {
    const proposal = this.kept.get(id);
    if (!proposal)
      throw new Fault('not-found', 'This plan is no longer at hand.', 'Open it again; it is computed anew.');
    this.kept.delete(id);
    return proposal;
  }
}
