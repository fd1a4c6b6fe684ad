import { seeded } from '../core/test/chance.ts';
import { PlanRequest } from '../api/plans.ts';
import { propose } from '../server/ledger/kinds.ts';
import { Arrivals } from '../server/intake/arrivals.ts';
import { applyProposal } from '../server/ledger/proposal.ts';
import { Site } from '../server/site/site.ts';
import { arrive, picture } from '../server/test/site.ts';
import { randomRequest } from '../server/test/random-site.ts';
import { Pool } from '../server/work/pool.ts';

/** For the bench of kills: applies random plans, and their undos, until it is killed. Arguments: site, seed. Says each one done. */
const [root = '', seed = '1'] = process.argv.slice(2);
const chance = seeded(Number(seed));
const site = await Site.open({ site: root, pool: new Pool(1) });
await site.settle();
await site.scan();
process.stdout.write('ready\n');
for (;;) {
  // Now and then files come from outside, new ones and one that is there already.
  if (chance.below(8) === 0) {
    const names = Array.from({ length: chance.whole(1, 4) }, () => `new${chance.below(10_000)}.png`);
    const ids: number[] = [];
    for (const name of names) ids.push((await arrive(site, await picture(chance.below(5000)), name)).id);
    process.stdout.write('begin bring-in\n');
    await new Arrivals(site).bringIn(ids, 1);
    process.stdout.write('done\n');
    continue;
  }
  const [last] = chance.below(3) === 0 ? site.rows.list(1) : [];
  const request =
    last && last.undoneBy === null
      ? ({ kind: 'undo', entryId: last.id } as const)
      : randomRequest(site, chance);
  const proposal = await propose(site, PlanRequest.parse(request), 1);
  if (proposal.plan.clashes.length > 0) continue;
  process.stdout.write(`begin ${proposal.plan.kind}\n`);
  await applyProposal(site, proposal, 1);
  process.stdout.write('done\n');
}
