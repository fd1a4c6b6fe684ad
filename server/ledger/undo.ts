import { folderOf, joinPath, type SitePath } from '../../core/address/path.ts';
import { REDIRECTS_FILE } from '../../core/address/redirects.ts';
import {
  inverseFiles,
  inversePages,
  inverseRecords,
  inverseSettings,
  placesBefore,
} from '../../core/plan/inverse.ts';
import { emptyPlan, type Plan, type RecordValues } from '../../core/plan/plan.ts';
import { sameValue } from '../../core/plan/settings.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../site/site.ts';
import { addRedirects, addresses } from './addresses.ts';
import { currentHash, needHere, newFolders, type Proposal } from './proposal.ts';

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
  if (original.kind === 'empty')
    throw new Fault(
      'bad-request',
      'What was emptied is lost: nothing can bring it back.',
      'Look for the files in a backup of the site.',
    );
  const plan = emptyPlan(
    'undo',
    original.kind === 'undo' ? `Redo: ${original.title.replace(/^Undo: /, '')}` : `Undo: ${entry.title}`,
  );
  plan.undoes = entryId;
  plan.totals = { ...original.totals, bytesFreed: 0 };
  const proposal: Proposal = { plan, contents: new Map() };

  plan.records = inverseRecords(original.records, (id) => site.items.need(id).rowVersion);
  for (const step of plan.records) addRecordClashes(site, plan, step.itemId, step.before);

  plan.settings = inverseSettings(original.settings ?? []);
  for (const step of plan.settings)
    if (
      !sameValue(site.settings.get(step.room, step.key), step.before) &&
      !plan.settings.some((one) => one !== step && one.room === step.room && one.key === step.key)
    )
      plan.clashes.push({ path: step.key, why: 'It was changed again later.' });

  const moves = new Map(
    original.files.flatMap((step) => (step.do === 'move' ? [[step.to, step.from] as const] : [])),
  );
  const files = inverseFiles(original.files);
  proposal.redirected = moves;
  const standsAt = placesBefore(files);
  const changedSince: SitePath[] = [];
  for (const step of files) {
    if (step.do !== 'write' || step.path === REDIRECTS_FILE) continue;
    if ((await currentHash(site, standsAt.get(step.path) ?? step.path)) !== step.before)
      changedSince.push(step.path);
  }
  if (changedSince.length > 0 && moves.size > 0 && plan.clashes.length === 0) {
    const items = plan.records.map((step) => needHere(site, step.itemId));
    const own = new Set(items.map((item) => item.path));
    const again = await addresses(
      site,
      items,
      new Map(plan.records.map((step) => [step.itemId, step.after.path!])),
      files.flatMap((step) =>
        step.do === 'move' && !own.has(step.from)
          ? [{ path: step.from, to: step.to, sha256: site.factsOf(step.from)?.sha256 ?? step.sha256 }]
          : [],
      ),
    );
    again.plan.files.push(...files.filter((step) => step.do === 'make-folder' || step.do === 'drop-folder'));
    again.plan.warnings.push(
      ...changedSince.map(
        (path) =>
          `“${path}” has changed since. Only the addresses in it are turned back; the rest stays as it is now.`,
      ),
    );
    return {
      contents: again.contents,
      readings: again.readings,
      redirected: again.redirected,
      plan: {
        ...again.plan,
        kind: 'undo',
        title: plan.title,
        undoes: entryId,
        leaves: leftBehind(original),
        settings: plan.settings,
      },
    };
  }
  plan.pages = inversePages(original);
  plan.leaves = leftBehind(original);
  const clashes = site.folder.clashFinder();
  const leaving = new Set(standsAt.values());
  const turnedBack = new Set(files.flatMap((step) => (step.do === 'write' ? [step.path] : [])));
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
    await addFileClashes(site, plan, step, { standsAt, leaving, clashes, turnedBack });
  }
  plan.folders = newFolders(site, plan);
  if (plan.clashes.length > 0) {
    for (const later of site.rows.laterThan(entryId)) {
      plan.warnings.push(`Later change: “${later.title}” by ${later.person}. Undo that one first.`);
    }
  }
  return proposal;
}

/** Folders that a plan has made, the innermost first: undone, they go when nothing else lies in them. */
function leftBehind({ makes, folders, kind }: Plan): SitePath[] {
  return [...(makes ?? (kind === 'undo' ? [] : folders))].reverse();
}

function addRecordClashes(site: Site, plan: Plan, id: number, expected: Partial<RecordValues>): void {
  const item = site.items.need(id);
  const { path, state, owner, focal } = item;
  const current: Record<string, unknown> = { ...item.words, path, state, owner, focal };
  for (const [field, value] of Object.entries(expected)) {
    if (JSON.stringify(current[field]) === JSON.stringify(value)) continue;
    plan.clashes.push({
      path: item.path,
      why: `Its ${field} was changed again later${item.changedBy ? ` by ${item.changedBy}` : ''}.`,
    });
  }
}

async function addFileClashes(
  site: Site,
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
    plan.clashes.push({ path: step.path, why: 'Something lies in the folder now.' });
  if (step.do === 'move' || step.do === 'remove') {
    const path = step.do === 'move' ? step.from : step.path;
    const now = await currentHash(site, path);
    if (now === null) plan.clashes.push({ path, why: 'The file is not there any more.' });
    else if (now !== step.sha256) plan.clashes.push({ path, why: 'The file has other content now.' });
  }
  if (
    step.do === 'write' &&
    (await currentHash(site, standsAt.get(step.path) ?? step.path)) !== step.before
  ) {
    plan.clashes.push({ path: step.path, why: 'The file has changed since.' });
  }
  if (step.do === 'move' || step.do === 'create') {
    const path = step.do === 'move' ? step.to : step.path;
    const inTheWay = (await clashes(path)).filter((name) => !leaving.has(joinPath(folderOf(path), name)));
    if (inTheWay.length > 0) plan.clashes.push({ path, why: 'Another file has this address now.' });
  }
  if (step.do === 'remove' && site.items.atPath(step.path)?.use === 'placed') {
    // What came with a page goes with it; what another page shows by now stays.
    const pages = site.references.pagesShowing([step.path]);
    if (pages.every((page) => turnedBack.has(page))) return;
    plan.clashes.push({ path: step.path, why: 'It is placed on a page now. Take it off the page first.' });
  }
}
