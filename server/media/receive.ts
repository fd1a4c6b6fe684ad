import { rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { mimeOf } from '../../core/address/kinds.ts';
import type { Archive } from '../../core/intake/finding.ts';
import { Fault } from '../fault.ts';
import type { ItemFacts } from '../../core/media/facts.ts';
import { analyse } from './analyse.ts';
import { Undecodable } from './undecodable.ts';
import { THUMBNAIL_SIZES, type Analysis } from '../../core/media/analysis.ts';
import { checkAtDoor } from './validate.ts';
import { inspectItem } from './inspect.ts';
import { openZip, worthUnpacking } from './zip.ts';

/** What the door says of an arrived file, with all that is computed from it when it is taken. */
export type Received =
  | { refused: string }
  | {
      extension: string;
      notes: string[];
      /** The bytes are not those that came: they were made safe. */
      rewritten: boolean;
      facts: ItemFacts;
      derived: Analysis;
      archive: Archive | null;
    };

/** Checks, hashes, measures and derives an arrived file. A refused one leaves no thumbnail. Runs in workers. */
export async function receive(file: string, name: string, thumbs: string): Promise<Received> {
  const answer = await checkAtDoor(file, name);
  if ('refused' in answer) return answer;
  const { extension, notes } = answer.taken;
  const path = `arrival${extension}`;
  const facts = await inspectItem(file, path);
  const own = join(thumbs, `arriving-${facts.sha256}-${process.pid}-${Math.random().toString(36).slice(2)}`);
  try {
    const derived = await analyse(file, path, own, facts.duration);
    for (const size of derived.preview ? THUMBNAIL_SIZES : [])
      await rename(`${own}-${size}.webp`, join(thumbs, `${facts.sha256}-${size}.webp`));
    if (facts.unreadable && !derived.preview) notes.push(facts.unreadable);
    return {
      extension,
      notes: [...notes, ...derived.notes],
      rewritten: notes.some((note) => note.startsWith('Made safe')),
      facts,
      derived,
      archive: mimeOf(path) === 'application/zip' ? await archiveFacts(file) : null,
    };
  } catch (error) {
    for (const size of THUMBNAIL_SIZES) await rm(`${own}-${size}.webp`, { force: true });
    if (error instanceof Undecodable) return { refused: error.message };
    throw error;
  }
}

/** How much an archive holds, or why it cannot be unpacked: then it can only be kept as it is. */
async function archiveFacts(file: string): Promise<Archive> {
  const not = (fault: string): Archive => ({ files: 0, bytes: 0, fault });
  const zip = await openZip(file).catch(() => null);
  if (!zip) return not('It ends too early, or is damaged: its list of files is missing. Pack it again.');
  try {
    const entries = await worthUnpacking(zip);
    if (entries.length === 0) return not('It is empty.');
    const locked = entries.filter((entry) => entry.isEncrypted()).length;
    if (locked === entries.length)
      return not('Its files are protected by a password. Unpack it yourself and upload the files.');
    return { files: entries.length, bytes: entries.reduce((sum, one) => sum + one.uncompressedSize, 0) };
  } catch (error) {
    if (!(error instanceof Fault)) throw error;
    return not(error.message);
  } finally {
    zip.close();
  }
}
