import { emptyPlan } from '../../core/plan/plan.ts';
import { Site } from '../site/site.ts';
import { Pool } from '../work/pool.ts';
import { addresses, proposeAddress } from './addresses.ts';
import { proposeAside } from './files.ts';
import { proposeMerge } from './merge.ts';
import { applyProposal, keep, type Proposal } from './proposal.ts';
import { proposeUndo } from './undo.ts';

/**
 * For the tests: opens a site, applies one plan and ends itself with SIGKILL at the n-th step of the ledger.
 * Arguments: site, what ('rename' | 'aside' | 'merge' | 'exchange' | 'rewrite' | 'undo'), n. Prints 'applied' if it was not killed.
 */
const [root = '', what = '', at = ''] = process.argv.slice(2);
let step = 0;
let armed = false;
// One worker is enough, and starts sooner than two.
const pool = new Pool(1);
const site = await Site.open({
  site: root,
  pool,
  onStep: () => {
    if (armed && ++step === Number(at)) process.kill(process.pid, 'SIGKILL');
  },
});
await site.ledger.recover();
await site.scan();
const id = (path: string) => site.items.atPath(path)!.id;
const proposal =
  what === 'rename'
    ? await proposeAddress(site, id('img/IMG_1234.png'), 'new/deep', 'hill.png')
    : what === 'aside'
      ? await proposeAside(site, [id('img/unused.png'), id('old/copy-of-b.png')])
      : what === 'merge'
        ? await proposeMerge(site, [{ keeperId: id('old/copy-of-b.png'), otherIds: [id('img/b.png')] }])
        : what === 'exchange'
          ? await addresses(
              site,
              ['img/b.png', 'img/c.png'].map((path) => site.items.atPath(path)!),
              new Map([
                [id('img/b.png'), 'img/c.png'],
                [id('img/c.png'), 'img/b.png'],
              ]),
            )
          : what === 'rewrite'
            ? await rewritten()
            : await proposeUndo(site, site.rows.list(1)[0]!.id);
/** Other bytes under the same name, as when an item is made lighter. */
async function rewritten(): Promise<Proposal> {
  const plan = emptyPlan('lighten', 'Make 2 items lighter');
  const proposal: Proposal = { plan, contents: new Map() };
  for (const [path, other] of [
    ['img/b.png', 'img/c.png'],
    ['img/IMG_1234.png', 'img/unused.png'],
  ] as const) {
    const after = keep(proposal, Buffer.concat([await site.folder.read(other), Buffer.from(path)]));
    plan.files.push({ do: 'write', path, before: site.items.atPath(path)!.sha256, after });
  }
  return proposal;
}
armed = true;
await applyProposal(site, proposal, 1);
await site.close();
await pool.close();
process.stdout.write('applied\n');
