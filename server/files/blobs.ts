import { createHash, randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { chmod, mkdir, unlink } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { copySynced, moveFile, syncFolder, writeSynced } from './site-folder.ts';

/** Content kept under its SHA-256 (64 lower-case hex digits): before-images, set-aside files, arrivals. */
export interface Blobs {
  has(sha256: string): boolean;
  /** A file that holds it, to be read and left as it is. */
  get(sha256: string): string;
  /** Keeps bytes, or a copy of a file whose hash is known; answers the hash. On disk when this resolves. */
  put(content: Uint8Array | { file: string; sha256: string }): Promise<string>;
  /** Takes a file over, whose hash is known; it is gone from where it was. */
  link(file: string, sha256: string): Promise<void>;
  drop(sha256: string): Promise<void>;
}

/** Rights of the server's user alone: a file that comes from the site may be read by others there. */
export const OWN_FILE = 0o600;

/** Where a folder of content keeps it: 'ab/ab12…'. */
export function blobPath(folder: string, sha256: string): string {
  if (!/^[0-9a-f]{64}$/.test(sha256)) throw new Error(`not a hash: ${sha256}`);
  return join(folder, sha256.slice(0, 2), sha256);
}

/** Content in a folder of this machine. */
export class BlobFolder implements Blobs {
  /** @param work a folder on the same file system, where content is written before it is put in place */
  constructor(
    private readonly folder: string,
    private readonly work: string,
  ) {}

  has(sha256: string): boolean {
    return existsSync(this.get(sha256));
  }

  get(sha256: string): string {
    return blobPath(this.folder, sha256);
  }

  async put(content: Uint8Array | { file: string; sha256: string }): Promise<string> {
    const bytes = content instanceof Uint8Array;
    const sha256 = bytes ? createHash('sha256').update(content).digest('hex') : content.sha256;
    if (this.has(sha256)) return sha256;
    const copy = join(this.work, randomUUID());
    await (bytes ? writeSynced(copy, content) : copySynced(content.file, copy));
    await this.link(copy, sha256);
    return sha256;
  }

  async link(file: string, sha256: string): Promise<void> {
    const to = this.get(sha256);
    await mkdir(dirname(to), { recursive: true });
    if (this.has(sha256)) await unlink(file);
    else await moveFile(file, to);
    await chmod(to, OWN_FILE);
    await syncFolder(dirname(to));
  }

  async drop(sha256: string): Promise<void> {
    if (this.has(sha256)) await unlink(this.get(sha256));
  }
}
