import { parseArgs } from 'node:util';
import { serveTagger, TAGGER } from './tagger.ts';

/** Runs the demo's tagging service, which says what is on images. */
const { values } = parseArgs({ options: { folder: { type: 'string' }, port: { type: 'string' } } });
const port = Number(values.port);
if (!values.folder || !Number.isInteger(port)) {
  process.stderr.write('The tagging service needs --folder DIR and --port N.\n');
  process.exit(2);
}
serveTagger(values.folder)
  .on('error', (error) => {
    // The demo works without it: only tags are not suggested.
    process.stderr.write(`The demo’s tagging service could not start: ${error.message}\n`);
    process.exit(1);
  })
  .listen(port, '127.0.0.1', () =>
    process.stdout.write(`${TAGGER}, a simulated tagging service, is at http://127.0.0.1:${port}/\n`),
  );
