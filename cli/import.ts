import { resolve } from 'node:path';
import { bringArchive } from '../server/archive/bring.ts';
import { besideSite } from '../server/files/data-folder.ts';
import { optionsOf, runCommand, said } from './command.ts';

const USAGE = 'Usage: npm run import -- --from (DIR|ZIP) --site DIR [--data DIR]';

/** Makes a site and its library of an archive. Answers 1 when something was left out. */
runCommand('The import', async () => {
  const values = optionsOf(USAGE, ['from', 'site'], ['data']);
  const root = resolve(values.site);
  const data = values.data ?? besideSite(root);
  const { files, records, faults } = await bringArchive(values.from, { root, data });
  for (const { file, line, says } of faults) said(`${file}${line > 0 ? `, line ${line}` : ''}: ${says}`);
  said(
    `Imported into “${root}”, with its data in “${data}”: ${files.toLocaleString('en')} files and folders, ${(records['items'] ?? 0).toLocaleString('en')} records of items.`,
  );
  said('Nobody can sign in yet: the server prints a link for the first steward when it starts.');
  return faults.length > 0 ? 1 : 0;
});
