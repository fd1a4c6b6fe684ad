import { benchAlike } from './alike.ts';
import { benchIntake } from './intake.ts';
import { benchKills } from './kills.ts';
import { benchLibrary } from './library.ts';
import { benchRequests } from './requests.ts';
import { benchNaming } from './naming.ts';
import { benchReading } from './reading.ts';

import { benchScan } from './scan.ts';
import { benchSlider } from './slider.ts';
import { benchTagging } from './tagging.ts';
import { benchTreat } from './treat.ts';
import { benchUpkeep } from './upkeep.ts';
import { benchWaits } from './waits.ts';

/** Speed as ratios in one run against a bare baseline: all of it, or the parts that are named. */
const say = (text: string) => process.stdout.write(`${text}\n`);
const [part, ...more] = process.argv.slice(2);
const PARTS = {
  reading: () => benchReading(say),

  /** `npm run bench -- alike FOLDER`: what is found again of the pictures in that folder. */
  alike: () => benchAlike(say, part ? more[0] : undefined),
  scan: () => benchScan(say),
  upkeep: () => benchUpkeep(say),
  library: () => benchLibrary(say),
  requests: () => benchRequests(say),
  naming: () => benchNaming(say),
  slider: () => benchSlider(say),
  tagging: () => benchTagging(say),
  /** `npm run bench -- waits 100000`: on a site of so many items. */
  waits: () => benchWaits(say, Number(more[0] ?? 30_000)),
  /** `npm run bench -- kills 50 2000`: so many kills on a site of so many pages. */
  kills: () => benchKills(say, Number(more[0] ?? 20), Number(more[1] ?? 500)),
  /** `npm run bench -- treat 60`: fewer images. */
  treat: () => benchTreat(say, Number(more[0] ?? 300)),
  /** Fewer files or megabytes for a quick look: `npm run bench -- intake 60 500`. */
  intake: () => benchIntake(say, Number(more[0] ?? 300), Number(more[1] ?? 4000)),
};
if (part !== undefined && !(part in PARTS)) {
  say(`There is no bench “${part}”. Name one of ${Object.keys(PARTS).join(', ')}, or none for all.`);
  process.exit(1);
}
for (const [name, run] of Object.entries(PARTS)) if (part === undefined || part === name) await run();
