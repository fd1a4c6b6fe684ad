import { realpath } from 'node:fs/promises';
import { weight } from '../core/text/format.ts';
import { makeBackup } from '../server/backup/make.ts';
import { dataFolderOf } from '../server/files/data-folder.ts';
import { DataPaths } from '../server/files/data-paths.ts';
import { SiteFolder } from '../server/files/site-folder.ts';
import { optionsOf, runCommand, said } from './command.ts';

const USAGE = 'Usage: npm run backup -- --site DIR --to DIR [--data DIR]';

/** Makes a backup of a site and its library, also while a server works on it. Answers 1 when something could not be kept. */
runCommand('The backup', async () => {
  const values = optionsOf(USAGE, ['site', 'to'], ['data']);
  const { root } = await SiteFolder.open(values.site);
  const data = new DataPaths(dataFolderOf(await realpath(root), values.data));
  const { name, snapshot, copied } = await makeBackup({ root, data }, values.to, {
    now: () => new Date().toISOString(),
    tell: said,
  });
  snapshot.notes.forEach(said);
  said(
    `Backup ${name}: ${snapshot.files.toLocaleString('en')} files, ${weight(snapshot.bytes)}; ` +
      `${copied.files.toLocaleString('en')} new ones, ${weight(copied.bytes)}, were copied.`,
  );
  return snapshot.notes.length > 0 ? 1 : 0;
});
