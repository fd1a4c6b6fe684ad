import { originalIn } from '../../core/picture/recipe/edit.ts';
import { addressFault, readRedirects, REDIRECTS_FILE, writeRedirects } from '../../core/address/redirects.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import { CHECKS, type CheckName } from '../../core/upkeep/checks.ts';
import { each, flatMap, map, mapOf } from '../../core/paced.ts';
import { breathe } from '../workers/breathe.ts';
import { Fault } from '../fault.ts';
import { collectBlob } from '../files/collect-blob.ts';
import type { Site } from '../app/site.ts';
import { applyProposal, type Applying } from './apply.ts';
import type { Proposal } from './proposal.ts';
import { sha256Of } from './plan-bytes.ts';

/**
 * Plans to leave findings alone, with the reason; they are told again once what they were found from has changed.
 * @param reason null: they are to be told again
 */
export async function proposeDismissal(
  site: Pick<Site, 'people' | 'findings' | 'settings' | 'now'>,
  name: CheckName,
  subjects: readonly string[],
  reason: string | null,
  personId: number,
): Promise<Proposal> {
  const check = CHECKS[name].name;
  const plan = emptyPlan(
    'arrange',
    reason === null
      ? `Report ${number(subjects.length)} of “${check}” again`
      : `Dismiss ${number(subjects.length)} of “${check}”: ${reason}`,
  );
  const person = site.people.get(personId)!.name;
  plan.settings = await flatMap(subjects, breathe, (subject) => {
    const key = `${name} ${subject}`;
    const before = site.settings.get('dismissal', key);
    const after =
      reason === null
        ? null
        : { reason, person, at: site.now(), looked: site.findings.lookedAt(name, subject) };
    return before === null && after === null ? [] : [{ namespace: 'dismissal' as const, key, before, after }];
  });
  plan.totals.items = plan.settings.length;
  return { plan };
}

const number = (count: number) => (count === 1 ? 'one finding' : `${count.toLocaleString('en')} findings`);

/** Plans how many days items that are set aside are kept at least. */
export function proposeKeepingDays(site: Pick<Site, 'settings'>, days: number): Proposal {
  const plan = emptyPlan('arrange', `Keep items set aside for ${days} days`);
  const before = site.settings.get('upkeep', 'keeping-days');
  if (before !== String(days))
    plan.settings = [{ namespace: 'upkeep', key: 'keeping-days', before, after: String(days) }];
  return { plan };
}

const GONE = 'This redirect no longer exists.';

/** Plans to drop redirects that lead nowhere, and to let chains lead straight on. */
export async function proposeRedirects(
  site: Pick<Site, 'folder' | 'planBytes' | 'scanner'>,
  changes: readonly { from: string; to: string | null }[],
): Promise<Proposal> {
  await site.scanner.scan();
  const plan = emptyPlan(
    'repair',
    `Fix ${changes.length === 1 ? '1 redirect' : `${changes.length} redirects`}`,
  );
  const proposal: Proposal = { plan };
  if (!(await site.folder.facts(REDIRECTS_FILE))) {
    plan.clashes = changes.map(({ from }) => ({ path: from, why: GONE }));
    return proposal;
  }
  const before = await site.folder.read(REDIRECTS_FILE);
  const wanted = await mapOf(changes, breathe, ({ from, to }) => [from, to]);
  const { redirects, faults } = await readRedirects(before.toString('utf8'), breathe);
  const after = await flatMap(redirects, breathe, ({ from, to }) => {
    const next = wanted.has(from) ? wanted.get(from)! : to;
    return next === null ? [] : [{ from, to: next }];
  });
  const there = new Map<string, { line: number; to: string }>();
  await each(redirects, breathe, ({ from, to }, at) => {
    if (!there.has(from)) there.set(from, { line: at + 2, to });
  });
  await each(changes, breathe, ({ from, to }) => {
    const fault = to === null ? undefined : addressFault(to, 'new');
    if (fault !== undefined) plan.clashes.push({ path: from, why: fault });
    if (!there.has(from)) plan.clashes.push({ path: from, why: GONE });
  });
  plan.files.push({
    do: 'write',
    path: REDIRECTS_FILE,
    before: sha256Of(before),
    after: await site.planBytes.keep(await writeRedirects(after, faults, breathe)),
  });
  plan.pages.push({
    page: REDIRECTS_FILE,
    changes: changes.map(({ from, to }) => ({
      line: there.get(from)?.line ?? 1,
      place: 'redirect',
      oldUrl: `${from} → ${there.get(from)?.to ?? ''}`,
      newUrl: to === null ? '' : `${from} → ${to}`,
    })),
  });
  plan.totals.pages = 1;
  plan.totals.spans = changes.length;
  return proposal;
}

/**
 * Empties: what was set aside is lost. The one act that cannot be undone, so it is never part of another, and the number must be
 * typed.
 * @throws Fault when the number is another, or an item is not set aside
 */
export async function emptyAside(
  site: Applying & Pick<Site, 'families'>,
  ids: readonly number[],
  typed: string,
  personId: number,
): Promise<{ entryId: number; items: number; bytes: number }> {
  const chosen = new Set(ids).size;
  await each(ids, breathe, (id) => site.items.need(id));
  // Sizes are lost with their image.
  const items = await site.items.many(await site.families.whole([...new Set(ids)]));
  for (const item of items)
    if (item.state !== 'aside')
      throw new Fault(
        'bad-request',
        `“${item.name}” is not set aside.`,
        'Reload the list of set-aside items.',
      );
  if (typed.trim() !== String(chosen))
    throw new Fault(
      'bad-request',
      `The number doesn’t match (${chosen} items).`,
      'Type the number of items to delete.',
    );
  const plan = emptyPlan(
    'empty',
    `Delete ${chosen === 1 ? `“${items[0]!.name}”` : `${chosen.toLocaleString('en')} items`} for good`,
  );
  plan.records = await map(items, breathe, (item) => ({
    itemId: item.id,
    rowVersion: item.rowVersion,
    before: { state: 'aside' },
    after: { state: 'absent' },
  }));
  const bytes = items.reduce((sum, item) => sum + item.bytes, 0);
  plan.totals = { items: chosen, pages: 0, spans: 0, bytesFreed: bytes };
  const entryId = await applyProposal(site, { plan }, personId);
  for (const item of items) {
    await collectBlob(site, item.sha256, true);
    const original = originalIn(item.edit);
    if (original) await collectBlob(site, original, true);
  }
  return { entryId, items: chosen, bytes };
}
