import { NO_WORDS } from '../../core/describe/fields.ts';
import { map } from '../../core/paced.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import { planWords } from '../../core/plan/words.ts';
import { wordsToTakeOver } from '../../core/upkeep/keeper.ts';
import { breathe } from '../workers/breathe.ts';
import { Fault } from '../fault.ts';
import { referencesToMoved } from '../scan/moved-references.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import type { SitePath } from '../../core/address/path.ts';
import { addRedirects } from './addresses.ts';
import { contentOf } from './drafts.ts';
import { proposePointing } from './placements.ts';
import type { Proposal } from './proposal.ts';

/** A record whose file others have taken away. @throws Fault */
function needMissing(site: Pick<Site, 'items'>, id: number): Item {
  const item = site.items.need(id);
  if (item.state !== 'absent' || !item.outside)
    throw new Fault('bad-request', `The file of “${item.name}” is not missing.`, 'Reload the list.');
  return item;
}

/** Plans to end records whose file is gone, with all that they say: the one act that removes them. */
export async function proposeForget(
  site: Pick<Site, 'items' | 'families'>,
  ids: readonly number[],
): Promise<Proposal> {
  const items = await map(await site.families.whole(ids), breathe, (id) => needMissing(site, id));
  const plan = emptyPlan(
    'arrange',
    ids.length === 1
      ? `Delete the record of “${items[0]!.name}”`
      : `Delete ${ids.length} records with missing files`,
  );
  plan.records = await map(items, breathe, (item) => {
    const [words] = planWords(item, NO_WORDS).records;
    return {
      itemId: item.id,
      rowVersion: item.rowVersion,
      before: { ...words?.before, outside: true },
      after: { ...words?.after, outside: false },
    };
  });
  plan.totals.items = ids.length;
  return { plan };
}

/**
 * Plans that a file is the one whose record is missing it. What has been written about the file since is kept where the record
 * says nothing.
 */
export function proposeReunite(site: Pick<Site, 'items'>, id: number, path: SitePath): Proposal {
  const record = needMissing(site, id);
  const there = site.items.atPath(path);
  if (!there) throw new Fault('not-found', `There is no item “${path}”.`, 'Choose another file.');
  const plan = emptyPlan('arrange', `Give “${path}” the record of “${record.path}”`);
  const words = wordsToTakeOver(record.words, [there.words]);
  const fields = Object.keys(words) as (keyof typeof words)[];
  const differs = there.sha256 !== record.sha256 && there.sha256 !== '' && record.sha256 !== '';
  plan.records = [
    {
      itemId: there.id,
      rowVersion: there.rowVersion,
      before: { state: 'here' },
      after: { state: 'absent' },
    },
    {
      itemId: record.id,
      rowVersion: record.rowVersion,
      before: {
        state: 'absent',
        path: record.path,
        outside: true,
        movedFrom: record.movedFrom,
        ...(differs ? { content: contentOf(record) } : {}),
        ...Object.fromEntries(fields.map((field) => [field, record.words[field]])),
      },
      after: {
        state: 'here',
        path,
        outside: false,
        movedFrom: record.path,
        ...(differs ? { content: contentOf(there) } : {}),
        ...words,
      },
    },
  ];
  if (differs)
    plan.warnings.push(
      `“${path}” has different content than “${record.path}”. Check whether the description fits.`,
    );
  plan.totals.items = 1;
  return { plan };
}

/** Plans that what still leads to where items lay before others moved them leads to where they are, with redirects. */
export async function proposeFollowMoves(
  site: Pick<Site, 'folder' | 'planBytes' | 'index' | 'scanner' | 'items' | 'references' | 'pool'>,
  ids: readonly number[],
): Promise<Proposal> {
  await site.scanner.scan();
  const items = (await site.items.many(ids)).filter(
    (item) => item.state === 'here' && item.movedFrom !== null,
  );
  const movedTo = new Map(items.map((item) => [item.movedFrom!, item.path]));
  const pointings = (await referencesToMoved(site, movedTo.keys())).map(({ page, start, from }) => ({
    page,
    start,
    path: movedTo.get(from)!,
  }));
  const proposal: Proposal =
    pointings.length > 0 ? await proposePointing(site, pointings) : { plan: emptyPlan('repair', '') };
  const { plan } = proposal;
  const what = items.length === 1 ? `“${items[0]!.name}”` : `${items.length} items`;
  plan.title = `Update references to ${what} moved outside Iconomos`;
  plan.records.push(
    ...items.map(({ id, rowVersion, movedFrom }) => ({
      itemId: id,
      rowVersion,
      before: { movedFrom },
      after: { movedFrom: null },
    })),
  );
  const free = new Map([...movedTo].filter(([from]) => !site.index.map.has(from)));
  if (free.size > 0) await addRedirects(site, proposal, free);
  plan.redirects.push(
    ...[...free].map(([from, to]) => ({
      from: `/${site.index.map.served(from)}`,
      to: `/${site.index.map.served(to)}`,
    })),
  );
  plan.totals.items = items.length;
  return proposal;
}
