import { randomUUID } from 'node:crypto';
import { join } from 'node:path';

/** Every path in a data folder: what lies where in it is said here and nowhere else. All are absolute. */
export class DataPaths {
  /** The database. */
  readonly database: string;
  /** Held by the one server that works on the folder. */
  readonly lock: string;
  /** Says which server that is. */
  readonly owner: string;
  /** Content by its SHA-256. */
  readonly blobs: string;
  /** Bytes that are still coming in, and work that is going on; on the file system of the content. */
  readonly arrivals: string;
  /** Small images by the SHA-256 of what they show. */
  readonly thumbnails: string;
  /** New bytes of plans that are at hand. */
  readonly plans: string;
  readonly exports: string;
  /** The link by which the first steward comes in, until it has been used. */
  readonly firstLink: string;

  constructor(readonly root: string) {
    this.database = join(root, 'iconomos.db');
    this.lock = join(root, 'lock.db');
    this.owner = join(root, 'owner.json');
    this.blobs = join(root, 'blobs');
    this.arrivals = join(root, 'arrivals');
    this.thumbnails = join(root, 'thumbs');
    this.plans = join(root, 'plans');
    this.exports = join(root, 'exports');
    this.firstLink = join(root, 'first-link.txt');
  }

  /** The folders that are made with it. */
  get folders(): string[] {
    return [this.blobs, this.arrivals, this.thumbnails, this.plans, this.exports];
  }

  /** A new file for work that is going on. What is left of it is swept away. */
  workFile(): string {
    return join(this.arrivals, randomUUID());
  }

  /** Where the bytes of an upload lie until they are checked. */
  upload(id: string): string {
    if (!/^[0-9a-f-]{36}$/.test(id)) throw new Error(`not an upload: ${id}`);
    return join(this.arrivals, id);
  }

  /** @param side pixels of its longer side */
  thumbnail(sha256: string, side: number): string {
    return `${this.thumbnailStem(sha256)}-${side}.webp`;
  }

  /** What the paths of all small images of some content begin with. */
  thumbnailStem(sha256: string): string {
    return join(this.thumbnails, sha256);
  }

  exported(name: string): string {
    return join(this.exports, name);
  }
}
