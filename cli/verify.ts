import { parseArgs } from 'node:util';
import { weight } from '../core/text/format.ts';
import { verifyBackups, verifyLibrary } from '../server/backup/verify.ts';
import { Fault } from '../server/fault.ts';
import { dataFolderOf } from '../server/files/data-folder.ts';
import { DataPaths } from '../server/files/data-paths.ts';
import { SiteFolder } from '../server/files/site-folder.ts';
import { runCommand, said } from './command.ts';

const USAGE = 'Usage: npm run verify -- (--from BACKUPS | --site DIR [--data DIR] [--backups BACKUPS])';

/** Looks through backups or a library. Answers 1 when something is wrong with them. */
runCommand('The look', async () => {
  const { values } = parseArgs({
    options: {
      from: { type: 'string' },
      site: { type: 'string' },
      data: { type: 'string' },
      backups: { type: 'string' },
    },
  });
  if (Boolean(values.from) === Boolean(values.site))
    throw new Fault('bad-request', 'Name either backups or a site.', USAGE);
  const tell = (done: number, total: number) => {
    if (process.stderr.isTTY) process.stderr.write(`\r${done} of ${total} files   `);
  };
  const { root } = values.site ? await SiteFolder.open(values.site) : { root: '' };
  const { files, bytes, rows, faults } = values.from
    ? await verifyBackups(values.from, tell)
    : await verifyLibrary(
        { root, data: new DataPaths(dataFolderOf(root, values.data)) },
        values.backups,
        tell,
      );
  for (const { says, mend } of faults) said(`${says} ${mend}`);
  said(
    `${files.toLocaleString('en')} files, ${weight(bytes)}, and ${rows.toLocaleString('en')} rows were looked at: ` +
      `${faults.length === 0 ? 'all is well' : `${faults.length.toLocaleString('en')} faults`}.`,
  );
  return faults.length > 0 ? 1 : 0;
});
