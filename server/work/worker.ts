import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import sharp from 'sharp';
import { NameIndex } from '../../core/reference/mention.ts';
import { readPage, textWithout } from '../../core/reference/read.ts';
import type { PageReading } from '../../core/reference/model.ts';
import { decodeRaw, rawOf, readSource, type Source } from '../../core/reference/source.ts';
import { derive, shrink } from '../intake/derive.ts';
import { Undecodable } from '../intake/derived.ts';
import { receive } from '../intake/receive.ts';
import { hashFile, inspectItem } from '../intake/inspect.ts';
import { OUT_OF_MEMORY, type TaskName, type Tasks } from './tasks.ts';

// One picture at a time in each worker; the pool has as many workers as there are cores.
sharp.concurrency(1);
sharp.cache(false);

/** Bytes that one task may take on top of what the worker has. */
const TASK_MEMORY = Number(process.argv[2]) * 1e6;

let names: { version: number; index: NameIndex } = { version: 0, index: new NameIndex([]) };

const handlers: {
  [Name in TaskName]: (input: Tasks[Name]['in']) => Promise<Tasks[Name]['out']> | Tasks[Name]['out'];
} = {
  inspect: ({ file, path }) => inspectItem(file, path),

  async read({ file, path, parse }) {
    const bytes = await readFile(file);
    const sha256 = createHash('sha256').update(bytes).digest('hex');
    const source = readSource(bytes);
    if ('unread' in source) {
      // A file with NUL bytes is no text; UTF-16 is, and is searched for names as it is.
      const isText = !bytes.includes(0) || bytes[0] === 0xff || bytes[0] === 0xfe;
      return {
        sha256,
        isText,
        ...(parse ? { reading: { title: '', references: [], canonical: [], unread: source.unread } } : {}),
      };
    }
    return { sha256, isText: true, ...(parse ? { reading: readOrSayWhyNot(path, source) } : {}) };
  },

  names({ version, paths }) {
    names = { version, index: new NameIndex(paths) };
    return null;
  },

  async search({ file, version, spans }) {
    if (version !== names.version)
      throw new Error(`names of version ${version} wanted, ${names.version} here`);
    const bytes = await readFile(file);
    const source = readSource(bytes);
    return names.index.search('unread' in source ? unreadText(bytes) : textWithout(source, spans));
  },

  async derive({ file, path, thumbs, duration }) {
    try {
      return await derive(file, path, thumbs, duration);
    } catch (error) {
      if (error instanceof Undecodable) return { undecodable: error.message };
      throw error;
    }
  },

  hash: ({ file }) => hashFile(file),

  receive: ({ file, name, thumbs }) => receive(file, name, thumbs),

  async shrink({ file, to, width, height, mime, mostBytes }) {
    await shrink(file, to, { width, height }, mime, mostBytes);
    return null;
  },
};

/** A page that a parser fails on is not lost: it is listed as unread, and its text is searched for names. */
function readOrSayWhyNot(path: string, source: Source): PageReading {
  try {
    return readPage(path, source);
  } catch (error) {
    return {
      title: '',
      references: [],
      canonical: [],
      unread: `The file could not be parsed: ${(error as Error).message}.`,
    };
  }
}

/** Text of a file that no parser reads: UTF-16 decoded, anything else byte by byte. */
function unreadText(bytes: Buffer): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return bytes.toString('utf16le', 2);
  if (bytes[0] === 0xfe && bytes[1] === 0xff)
    return Buffer.from(bytes.subarray(2, bytes.length & ~1))
      .swap16()
      .toString('utf16le');
  return decodeRaw('windows-1252', rawOf(bytes));
}

process.on('message', async ({ id, task, input }: { id: number; task: TaskName; input: never }) => {
  const most = process.memoryUsage.rss() + TASK_MEMORY;
  const watch = setInterval(() => {
    if (process.memoryUsage.rss() > most) process.exit(OUT_OF_MEMORY);
  }, 100);
  let answer: { id: number; output?: unknown; error?: string };
  try {
    answer = { id, output: await handlers[task](input) };
  } catch (error) {
    answer = { id, error: error instanceof Error ? error.message : String(error) };
  }
  clearInterval(watch);
  process.send!(answer);
});
// Ends with the server, also when that was killed; asked to stop from the keyboard, the server ends it in order.
process.on('disconnect', () => process.exit());
process.on('SIGINT', () => undefined);
