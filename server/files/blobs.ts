import { createHash, randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { mkdir, unlink } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { copySynced, moveFile, syncFolder, writeSynced } from './site-folder.ts';

/** Content kept in the data folder under its SHA-256: before-images, set-aside files, arrivals. */
export class Blobs {
  constructor(
    private readonly folder: string,
    readonly arrivalsFolder: string,
  ) {}

  path(sha256: string): string {
    if (!/^[0-9a-f]{64}$/.test(sha256)) throw new Error(`not a hash: ${sha256}`);
    return join(this.folder, sha256.slice(0, 2), sha256);
  }

  has(sha256: string): boolean {
    return existsSync(this.path(sha256));
  }

  /** Keeps bytes; answers their hash. On disk when this resolves. */
  async put(bytes: Uint8Array): Promise<string> {
    const sha256 = createHash('sha256').update(bytes).digest('hex');
    if (this.has(sha256)) return sha256;
    const arrival = this.newArrival();
    await writeSynced(arrival, bytes);
    await this.adopt(arrival, sha256);
    return sha256;
  }

  /** Keeps a copy of a file whose hash is known. */
  async putCopy(file: string, sha256: string): Promise<void> {
    if (this.has(sha256)) return;
    const arrival = this.newArrival();
    await copySynced(file, arrival);
    await this.adopt(arrival, sha256);
  }

  /** Takes a file over; it is gone from where it was. */
  async adopt(file: string, sha256: string): Promise<void> {
    const to = this.path(sha256);
    await mkdir(dirname(to), { recursive: true });
    if (this.has(sha256)) await unlink(file);
    else await moveFile(file, to);
    await syncFolder(dirname(to));
  }

  /** A new path for bytes that are still arriving, on the same file system. */
  newArrival(): string {
    return join(this.arrivalsFolder, randomUUID());
  }

  /** Where the bytes of an upload lie until they are checked. */
  arrival(upload: string): string {
    if (!/^[0-9a-f-]{36}$/.test(upload)) throw new Error(`not an upload: ${upload}`);
    return join(this.arrivalsFolder, upload);
  }

  async drop(sha256: string): Promise<void> {
    if (this.has(sha256)) await unlink(this.path(sha256));
  }
}
