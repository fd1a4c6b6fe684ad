import { restoreBackup } from '../server/backup/restore.ts';
import { besideSite } from '../server/files/data-folder.ts';
import { resolve } from 'node:path';
import { optionsOf, runCommand, said } from './command.ts';

const USAGE = 'Usage: npm run restore -- --from DIR --site DIR [--data DIR] [--backup NAME]';

/** Brings a site and its library back from a backup. Answers 1 when something could not be brought back. */
runCommand('The restore', async () => {
  const values = optionsOf(USAGE, ['from', 'site'], ['data', 'backup']);
  const root = resolve(values.site);
  const data = values.data ?? besideSite(root);
  const { name, snapshot, notes } = await restoreBackup(values.from, values.backup, { root, data });
  notes.forEach(said);
  said(
    `Restored ${name}: “${root}” with its data in “${data}”, ${snapshot.files.toLocaleString('en')} files.`,
  );
  return notes.length > 0 ? 1 : 0;
});
