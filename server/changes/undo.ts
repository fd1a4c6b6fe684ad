import { folderOf, joinPath, type SitePath } from '../../core/address/path.ts';
import { REDIRECTS_FILE } from '../../core/address/redirects.ts';
import {
  inverseFiles,
  inversePages,
  inverseRecords,
  inverseSettings,
  placesBefore,
} from '../../core/plan/inverse.ts';
import { each, flatMap, mapOf, setOf } from '../../core/paced.ts';
import { NO_WORDS } from '../../core/describe/fields.ts';
import { planWords, sameRecordValue } from '../../core/plan/words.ts';
import { composePlans } from '../../core/plan/compose.ts';
import { emptyPlan, type Plan, type RecordStep, type RecordValues } from '../../core/plan/plan.ts';
import { sameValue, seenOnce } from '../../core/plan/settings.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import type { LedgerEntry } from '../db/ledger.ts';
import { breathe } from '../workers/breathe.ts';
import { dropRedirects } from './addresses.ts';
import { contentOf } from './drafts.ts';
import { currentHash, newFolders, type Proposal } from './proposal.ts';
import { turnAddressesBack } from './undo-addresses.ts';

/** So many later changes are taken back with one at most. */
const MOST_TOGETHER = 50;

/**
 * Plans to take a ledger entry back. Pages that nobody changed since get their exact bytes again; in pages that did
 * change, only the addresses are turned back. What later changes stand in the way is said as clashes.
 * @param withLater those are taken back too, all as one change
 */
export async function proposeUndo(
  site: Pick<
    Site,
    | 'folder'
    | 'blobs'
    | 'planBytes'
    | 'index'
    | 'scanner'
    | 'items'
    | 'references'
    | 'rows'
    | 'settings'
    | 'pool'
  >,
  entryId: number,
  withLater = false,
): Promise<Proposal> {
  await site.scanner.scan();
  const entry = await site.rows.read(entryId);
  if (!entry || entry.state !== 'done')
    throw new Fault('not-found', `There is no ledger entry ${entryId}.`, 'Reload the Ledger.');
  if (entry.undoneBy !== null)
    throw new Fault('bad-request', 'This change is already undone.', 'To get it back, undo the undo.');
  const later = withLater ? restingOn(site, entryId) : [];
  if (later === undefined)
    throw new Fault(
      'bad-request',
      'These changes can’t be undone together: there are too many, or one of them deleted items for good.',
      'Undo the latest one first.',
    );
  const original =
    later.length > 0
      ? {
          ...composePlans([entry.plan, ...(await plansOf(site, later))]),
          kind: entry.plan.kind,
        }
      : entry.plan;
  if (original.kind === 'empty')
    throw new Fault(
      'bad-request',
      'Items deleted for good can’t be restored.',
      'Look for them in a backup of the site.',
    );
  const plan = emptyPlan(
    'undo',
    original.kind === 'undo' ? `Redo: ${entry.title.replace(/^Undo: /, '')}` : `Undo: ${entry.title}`,
  );
  plan.undoes = entryId;
  if (later.length > 0) {
    plan.undoesToo = later.map((one) => one.id);
    plan.title += later.length === 1 ? ', with 1 later change' : `, with ${later.length} later changes`;
    for (const one of later) plan.warnings.push(`Also undone: “${one.title}” by ${one.person}.`);
  }
  plan.totals = { ...original.totals, bytesFreed: 0 };
  const proposal: Proposal = { plan };

  const concerned = await setOf(original.records, breathe, (step) => step.itemId);
  const records = await mapOf(await site.items.many([...concerned]), breathe, (item) => [item.id, item]);
  const itemNow = (id: number) => records.get(id) ?? site.items.need(id);
  plan.records = await inverseRecords(original.records, (id) => itemNow(id).rowVersion, breathe);
  await each(plan.records, breathe, (step) => addRecordClashes(plan, itemNow(step.itemId), step.before));
  const leavingRecords = await leavingWith(site, original);
  await each(leavingRecords, breathe, (step) => plan.records.push(step));

  plan.settings = inverseSettings(original.settings ?? []);
  const once = await seenOnce(plan.settings, breathe);
  await each(plan.settings, breathe, (step) => {
    if (!sameValue(site.settings.get(step.namespace, step.key), step.before) && once(step))
      plan.clashes.push({ path: step.key, why: 'It was changed again later.' });
  });

  const files = await inverseFiles(original.files, breathe);
  const standsAt = await placesBefore(files, breathe);
  const back = await mapOf(files, breathe, (step) => (step.do === 'move' ? [step.from, step.to] : undefined));
  const written = await setOf(original.files, breathe, (step) =>
    step.do === 'write' && step.path !== REDIRECTS_FILE ? step.path : undefined,
  );
  const pages = await setOf(original.pages, breathe, (one) => one.page);
  const changedSince = new Set<SitePath>();
  const clashes = site.folder.clashFinder();
  const leaving = new Set(standsAt.values());
  const turnedBack = await setOf(files, breathe, (step) => (step.do === 'write' ? step.path : undefined));
  const last: Plan['files'] = [];
  // A page that changed since keeps its changes: only addresses are turned back, below.
  for (const step of files) {
    await breathe();
    if (step.do !== 'write' || step.path === REDIRECTS_FILE || step.before === null || step.after === null)
      continue;
    const stands = standsAt.get(step.path) ?? step.path;
    if (!pages.has(stands) && !pages.has(step.path)) continue;
    if ((await currentHash(site, stands)) !== step.before) changedSince.add(stands);
  }
  for (const step of files) {
    if (step.do === 'write' && step.path === REDIRECTS_FILE) {
      if ((await currentHash(site, step.path)) === step.before) {
        plan.files.push(step);
        proposal.unredirected = original.redirects;
      } else await dropRedirects(site, proposal, original.redirects);
      continue;
    }
    if (step.do === 'write' && changedSince.has(standsAt.get(step.path) ?? step.path)) continue;
    // An address comes back whatever bytes are there by now, unless the change had given it those.
    if (step.do === 'move' && (!written.has(step.from) || changedSince.has(step.from))) {
      const now = await currentHash(site, step.from);
      if (now !== null) step.sha256 = now;
    }
    (step.do === 'write' && standsAt.has(step.path) ? last : plan.files).push(step);
    await addFileClashes(site, plan, step, { standsAt, leaving, clashes, turnedBack });
    await breathe();
  }
  await each(last, breathe, (step) => plan.files.push(step));
  plan.pages = inversePages(original).filter((one) => !changedSince.has(one.page));
  await turnAddressesBack(site, proposal, original, back, changedSince);
  await breathe();
  plan.leaves = leftBehind(original);
  plan.folders = await newFolders(site, plan);
  if (plan.clashes.length > 0) {
    if (withLater) return proposal;
    for (const one of site.rows.laterThan(entryId))
      plan.warnings.push(`Later change: “${one.title}” by ${one.person}. Undo that one first.`);
    const resting = restingOn(site, entryId);
    if (resting && resting.length > 0) plan.undoTogether = resting.length;
  }
  return proposal;
}

/**
 * Records of files that a change had made, and that were found on the site since: they go with their files. One that a person has
 * written into by then stays, as one whose file is missing.
 */
async function leavingWith(site: Pick<Site, 'items'>, { files, records }: Plan): Promise<RecordStep[]> {
  const known = await setOf(records, breathe, (step) => step.itemId);
  return flatMap(files, breathe, (step): RecordStep[] => {
    const item =
      step.do === 'create' || (step.do === 'write' && step.before === null)
        ? site.items.atPath(step.path)
        : undefined;
    if (!item || known.has(item.id)) return [];
    const said = item.owner !== null || item.focal !== '' || planWords(item, NO_WORDS).records.length > 0;
    const outside = item.changedAt !== null && said;
    return [
      {
        itemId: item.id,
        rowVersion: item.rowVersion,
        before: { state: 'here', outside: item.outside },
        after: { state: 'absent', outside },
      },
    ];
  });
}

async function plansOf(site: Pick<Site, 'rows'>, entries: readonly LedgerEntry[]): Promise<Plan[]> {
  const plans: Plan[] = [];
  for (const { id } of entries) plans.push((await site.rows.read(id))!.plan);
  return plans;
}

/** The later changes that rest on one, the first of them first; undefined: they cannot be undone with it. */
function restingOn(site: Pick<Site, 'rows'>, entryId: number): LedgerEntry[] | undefined {
  const resting = site.rows.restingOn(entryId);
  return resting.length <= MOST_TOGETHER && resting.every((one) => one.kind !== 'empty')
    ? resting
    : undefined;
}

/** Folders that a plan has made, the innermost first: undone, they go when nothing else lies in them. */
function leftBehind({ makes, folders, kind }: Plan): SitePath[] {
  return [...(makes ?? (kind === 'undo' ? [] : folders))].reverse();
}

function addRecordClashes(plan: Plan, item: Item, expected: Partial<RecordValues>): void {
  const { path, state, owner, focal, edit, review, due, outside, movedFrom, family } = item;
  const current: Record<string, unknown> = {
    ...item.words,
    path,
    state,
    owner,
    focal,
    edit,
    review,
    due,
    outside,
    movedFrom,
    family,
    // Once it is on the site, its file says what it is; a record that went to another file goes back whatever that one says by now.
    content: state === 'draft' ? contentOf(item) : expected.state === undefined ? '' : expected.content,
  };
  for (const [field, value] of Object.entries(expected)) {
    if (sameRecordValue(current[field], value)) continue;
    plan.clashes.push({
      path: item.path,
      why: `Its ${field} was changed again later${item.changedBy ? ` by ${item.changedBy}` : ''}.`,
    });
  }
}

async function addFileClashes(
  site: Pick<Site, 'folder' | 'index' | 'items' | 'references' | 'pool'>,
  plan: Plan,
  step: Plan['files'][number],
  {
    standsAt,
    leaving,
    clashes,
    turnedBack,
  }: {
    standsAt: ReadonlyMap<SitePath, SitePath>;
    leaving: ReadonlySet<SitePath>;
    clashes: (path: SitePath) => Promise<string[]>;
    /** Pages that get the bytes again which they had before. */
    turnedBack: ReadonlySet<SitePath>;
  },
): Promise<void> {
  if (step.do === 'make-folder' && (await site.folder.stateOf(step.path)) !== 'none')
    plan.clashes.push({ path: step.path, why: 'There is a file or folder of that name now.' });
  if (step.do === 'drop-folder' && (await site.folder.stateOf(step.path)) === 'full')
    plan.clashes.push({ path: step.path, why: 'The folder is no longer empty.' });
  if (step.do === 'move' || step.do === 'remove') {
    const path = step.do === 'move' ? step.from : step.path;
    const now = await currentHash(site, path);
    if (now === null) plan.clashes.push({ path, why: 'The file no longer exists.' });
    else if (now !== step.sha256) plan.clashes.push({ path, why: 'The file has changed in the meantime.' });
  }
  if (
    step.do === 'write' &&
    (await currentHash(site, standsAt.get(step.path) ?? step.path)) !== step.before
  ) {
    plan.clashes.push({ path: step.path, why: 'The file has changed in the meantime.' });
  }
  if (step.do === 'move' || step.do === 'create') {
    const path = step.do === 'move' ? step.to : step.path;
    // It was there before, beside a twin of another case if there is one.
    const inTheWay = (await clashes(path)).filter(
      (name) => joinPath(folderOf(path), name) === path && !leaving.has(path),
    );
    if (inTheWay.length > 0) plan.clashes.push({ path, why: 'Another file has this address now.' });
  }
  if (step.do === 'remove' && site.items.atPath(step.path)?.use === 'placed') {
    // What came with a page goes with it; what another page shows by now stays.
    const pages = site.references.pagesShowing([step.path]);
    if (pages.every((page) => turnedBack.has(page))) return;
    plan.clashes.push({ path: step.path, why: 'It is now in use on a page. Remove it from the page first.' });
  }
}
