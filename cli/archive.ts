import { realpath } from 'node:fs/promises';
import { weight } from '../core/text/format.ts';
import { writeArchive } from '../server/archive/write.ts';
import { dataFolderOf } from '../server/files/data-folder.ts';
import { DataPaths } from '../server/files/data-paths.ts';
import { SiteFolder } from '../server/files/site-folder.ts';
import { optionsOf, runCommand, said } from './command.ts';

const USAGE = 'Usage: npm run archive -- --site DIR --to DIR [--data DIR]';

/** Writes a whole library as a bag, also while a server works on it. Answers 1 when something could not be kept. */
runCommand('The archive', async () => {
  const values = optionsOf(USAGE, ['site', 'to'], ['data']);
  const { root } = await SiteFolder.open(values.site);
  const data = new DataPaths(dataFolderOf(await realpath(root), values.data));
  const { files, bytes, records, notes } = await writeArchive({ root, data }, values.to, {
    now: () => new Date().toISOString(),
    tell: said,
  });
  notes.forEach(said);
  const items = (records['items'] ?? 0).toLocaleString('en');
  const changes = (records['ledger'] ?? 0).toLocaleString('en');
  said(
    `Archived in “${values.to}”: ${files.toLocaleString('en')} files, ${weight(bytes)}; ${items} records of items, ${changes} entries of the ledger.`,
  );
  return notes.length > 0 ? 1 : 0;
});
