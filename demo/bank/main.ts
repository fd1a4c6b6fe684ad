import { parseArgs } from 'node:util';
import { SEED } from '../make.ts';
import { BANK, serveBank } from './bank.ts';

/** Runs the demo's image bank, in which the application finds images. */
const { values } = parseArgs({ options: { folder: { type: 'string' }, port: { type: 'string' } } });
const port = Number(values.port);
if (!values.folder || !Number.isInteger(port)) {
  process.stderr.write('The image bank needs --folder DIR and --port N.\n');
  process.exit(2);
}
serveBank(values.folder, SEED)
  .on('error', (error) => {
    // The demo works without it: only searching in it finds nothing.
    process.stderr.write(`The demo’s image bank could not start: ${error.message}\n`);
    process.exit(1);
  })
  .listen(port, '127.0.0.1', () =>
    process.stdout.write(`${BANK}, a simulated image bank, is at http://127.0.0.1:${port}/\n`),
  );
