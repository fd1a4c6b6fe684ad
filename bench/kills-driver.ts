import { seeded } from '../core/test/chance.ts';
import type { PlanRequest } from '../api/plans.ts';
import { Arrivals } from '../server/intake/arrivals.ts';
import { openSite } from '../server/app/open-site.ts';
import { arrive, picture } from '../server/test/site.ts';
import { applied, KINDS_OF_PLANS, randomRequest } from '../server/test/random-plans.ts';
import { Pool } from '../server/workers/pool.ts';

/** For the bench of kills: applies random plans, and their undos, until it is killed. Arguments: site, seed. Says each one done. */
const [root = '', seed = '1'] = process.argv.slice(2);
const chance = seeded(Number(seed));
const site = await openSite({ site: root, pool: new Pool(1) });
await site.scanner.settle();
await site.scanner.scan();
process.stdout.write('ready\n');
const apply = async (request: PlanRequest) => {
  const entry = await applied(site, request, (plan) => process.stdout.write(`begin ${plan.kind}\n`));
  if (entry !== undefined) process.stdout.write('done\n');
  return entry;
};
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
  const backs: (() => Promise<void>)[] = [];
  const request =
    last && last.undoneBy === null
      ? ({ kind: 'undo', entryId: last.id } as const)
      : await randomRequest(chance.pick(KINDS_OF_PLANS()), {
          site,
          chance,
          first: apply,
          others: async ({ path, sha256 }, act, back) => {
            // Also what others do may be cut short: whoever looks afterwards has to know.
            process.stdout.write(`others ${JSON.stringify({ path, sha256 })}\n`);
            await act();
            await site.scanner.scan();
            backs.unshift(back);
          },
        });
  const entry = request && (await apply(request));
  if (entry === undefined) for (const back of backs) await back();
}
