import { applyProposal } from '../changes/apply.ts';
import { openSite } from '../app/open-site.ts';
import { Pool } from '../workers/pool.ts';
import { KILLED } from './crashing.ts';

/**
 * For the tests: opens a site, applies one plan and ends itself with SIGKILL at the n-th step of the ledger.
 * Arguments: site, a name of KILLED, n. Prints 'applied' if it was not killed.
 */
const [root = '', what = '', at = ''] = process.argv.slice(2);
let step = 0;
let armed = false;
// One worker is enough, and starts sooner than two.
const pool = new Pool(1);
const site = await openSite({
  site: root,
  pool,
  onStep: () => {
    if (armed && ++step === Number(at)) process.kill(process.pid, 'SIGKILL');
  },
});
await site.ledger.recover();
await site.scanner.scan();
const proposal = await KILLED[what]!(site);
armed = true;
await applyProposal(site, proposal, 1);
await site.close();
await pool.close();
process.stdout.write('applied\n');
