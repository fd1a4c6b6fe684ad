import { seeded } from '../core/test/chance.ts';
import { propose } from '../server/ledger/kinds.ts';
import { applyProposal } from '../server/ledger/proposal.ts';
import { Site } from '../server/site/site.ts';
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
  const [last] = chance.below(3) === 0 ? site.rows.list(1) : [];
  const request =
    last && last.undoneBy === null
      ? ({ kind: 'undo', entryId: last.id } as const)
      : randomRequest(site, chance);
  const proposal = await propose(site, request as Parameters<typeof propose>[1], 1);
  if (proposal.plan.clashes.length > 0) continue;
  process.stdout.write(`begin ${proposal.plan.kind}\n`);
  await applyProposal(site, proposal, 1);
  process.stdout.write('done\n');
}
