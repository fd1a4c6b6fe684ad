import { createStore, del, entries, set } from 'idb-keyval';

/** A file that is still to be sent, kept in the browser so that a reload loses nothing. */
export interface KeptFile {
  file: File;
  /** Folders it lay in, of a dropped tree. */
  below: string;
  folder: string;
  /** Where the server keeps what has come already; empty before the first byte. */
  uploadUrl: string;
}

/** Files above this are not copied into the browser's store; after a reload they are chosen again and go on. */
const LARGEST_KEPT = 300_000_000;

const store = createStore('iconomos', 'files-to-send');

export async function keep(key: string, kept: KeptFile): Promise<void> {
  if (kept.file.size <= LARGEST_KEPT) await set(key, kept, store);
}

export function forget(key: string): Promise<void> {
  return del(key, store);
}

export async function allKept(): Promise<[string, KeptFile][]> {
  return entries<string, KeptFile>(store);
}
