import { readdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Fault } from '../fault.ts';
import { DataPaths } from '../files/data-paths.ts';
import { ZipWriter } from '../files/zip-writer.ts';
import { answerQuestions } from '../workers/thread.ts';
import type { ArchiveQuestion } from './packed.ts';
import { writeArchive, type Archived } from './write.ts';

/** Files whose bytes are compressed already: deflating them again costs time and saves nothing. */
const MEDIA =
  /\.(jpe?g|png|webp|avif|heic|gif|mp[34]|m4[av]|webm|ogg|flac|zip|docx|xlsx|pptx|odt|ods|pdf|woff2?)$/i;

answerQuestions<ArchiveQuestion, Archived>(async (question, progress) => {
  const { root, data, folder, to, name, at, files } = question;
  const made = await writeArchive({ root, data: new DataPaths(data) }, folder, {
    now: () => at,
    progress: (done) => progress(Math.min(done, files), 2 * files),
  });
  const zip = new ZipWriter(to);
  const entries = (await readdir(folder, { recursive: true, withFileTypes: true })).filter((one) =>
    one.isFile(),
  );
  for (const [done, entry] of entries.entries()) {
    const file = join(entry.parentPath, entry.name);
    const path = file.slice(folder.length + 1);
    if (path.includes('\\'))
      throw new Fault(
        'bad-request',
        `“${path}” can’t be in a ZIP: its name holds a backslash.`,
        'Rename it, or write the archive into a folder with “npm run archive”.',
      );
    await zip.add({ file, name: `${name}/${path}`, compress: !MEDIA.test(path) });
    progress(files + Math.round((files * (done + 1)) / entries.length), 2 * files);
  }
  await zip.end();
  await rm(folder, { recursive: true });
  return made;
});
