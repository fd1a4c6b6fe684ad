import { createReadStream, createWriteStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { finished, pipeline } from 'node:stream/promises';
import { ZipFile } from 'yazl';
import { answerQuestions } from '../workers/thread.ts';
import type { ZipEntry, ZipQuestion } from './zip.ts';

/** Writes an archive: one file after the other, so that what is told of it has been done. */
let zip: ZipFile;
let written: Promise<void>;

function open(target: string): void {
  zip = new ZipFile();
  const output = zip.outputStream as NodeJS.ReadableStream & { destroy(error: Error): void };
  written = pipeline(output, createWriteStream(target));
  // Told to who waits for a file, or for the end.
  written.catch(() => undefined);
  // A file that changes while it is read must fail the archive, not cut it short.
  zip.on('error', (error: Error) => output.destroy(error));
}

async function add({ file, name, compress }: ZipEntry): Promise<void> {
  const { size, mtime, mode } = await stat(file);
  const bytes = createReadStream(file);
  zip.addReadStream(bytes, name, { size, mtime, mode, compress });
  await finished(bytes);
}

answerQuestions<ZipQuestion, null>(async (question, progress) => {
  if ('open' in question) open(question.open);
  else if ('text' in question) zip.addBuffer(Buffer.from(question.text, 'utf8'), question.name);
  else if ('entries' in question)
    for (const [at, entry] of question.entries.entries()) {
      await Promise.race([add(entry), written]);
      progress(at + 1, question.entries.length);
    }
  else {
    zip.end();
    await written;
  }
  return null;
});
