import { parseArgs } from 'node:util';
import { AGENCY, makeAgency, serveAgency } from './agency.ts';
import { SEED } from './make.ts';

/** Runs the demo's image agency, from which Intake may fetch. */
const { values } = parseArgs({ options: { folder: { type: 'string' }, port: { type: 'string' } } });
const port = Number(values.port);
if (!values.folder || !Number.isInteger(port)) {
  process.stderr.write('The agency needs --folder DIR and --port N.\n');
  process.exit(2);
}
await makeAgency(values.folder, SEED);
serveAgency(values.folder)
  .on('error', (error) => {
    // The demo works without it: only fetching has nothing to fetch from.
    process.stderr.write(`The demo’s picture agency could not start: ${error.message}\n`);
    process.exit(1);
  })
  .listen(port, '127.0.0.1', () =>
    process.stdout.write(`${AGENCY}, a simulated supplier to fetch from, is at http://127.0.0.1:${port}/\n`),
  );
