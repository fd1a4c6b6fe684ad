import { PLAIN_PATTERN } from '../../core/naming/pattern.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import { planMoves, proposeAddress } from '../changes/addresses.ts';
import { proposeAside } from '../changes/files.ts';
import { proposeMerge } from '../changes/merge.ts';
import type { Proposal } from '../changes/proposal.ts';
import { proposeTreat } from '../changes/treat.ts';
import { proposeUndo } from '../changes/undo.ts';
import type { Site } from '../app/site.ts';
import { idOf } from './plans.ts';

/** Changes of the usual small site that are killed half way. */
export const KILLED: Record<string, (site: Site) => Promise<Proposal>> = {
  rename: (site) => proposeAddress(site, idOf(site, 'img/IMG_1234.png'), 'new/deep', 'hill.png'),
  aside: (site) => proposeAside(site, [idOf(site, 'img/unused.png'), idOf(site, 'old/copy-of-b.png')]),
  merge: (site) =>
    proposeMerge(site, [{ keeperId: idOf(site, 'old/copy-of-b.png'), otherIds: [idOf(site, 'img/b.png')] }]),
  exchange: (site) =>
    planMoves(
      site,
      ['img/b.png', 'img/c.png'].map((path) => site.items.atPath(path)!),
      new Map([
        [idOf(site, 'img/b.png'), 'img/c.png'],
        [idOf(site, 'img/c.png'), 'img/b.png'],
      ]),
    ),
  rewrite: rewritten,
  treat: (site) =>
    proposeTreat(site, {
      kind: 'treat',
      itemIds: ['img/IMG_1234.png', 'img/b.png'].map((path) => idOf(site, path)),
      treatment: {
        name: 'Album',
        recipe: { version: 1, tone: { blackAndWhite: true }, file: { format: 'jpeg' } },
        pattern: {
          ...PLAIN_PATTERN,
          pieces: [{ piece: 'counter', start: 1, step: 1, width: 3, restart: 'never' }],
        },
      },
      to: { as: 'these', sizes: true },
    }),
  undo: (site) => proposeUndo(site, site.rows.list(1)[0]!.id),
};

/** Other bytes under the same name, as when an item is made lighter. */
async function rewritten(site: Site): Promise<Proposal> {
  const plan = emptyPlan('lighten', 'Make 2 items lighter');
  const proposal: Proposal = { plan };
  for (const [path, other] of [
    ['img/b.png', 'img/c.png'],
    ['img/IMG_1234.png', 'img/unused.png'],
  ] as const) {
    const after = await site.planBytes.keep(
      Buffer.concat([await site.folder.read(other), Buffer.from(path)]),
    );
    plan.files.push({ do: 'write', path, before: site.items.atPath(path)!.sha256, after });
  }
  return proposal;
}
