import { createStore, del, entries, set } from 'idb-keyval';

/** A file that is still to be sent, kept in the browser so that a reload loses nothing. */
export interface KeptFile {
  /** The file itself, or a handle to where it lies for one that is too large to be copied. */
  file: File | FileSystemFileHandle;
  /** Folders it lay in, of a dropped tree. */
  below: string;
  folder: string;
  /** Where the server keeps what has come already; empty before the first byte. */
  uploadUrl: string;
}

/** Files above this are not copied into the browser's store: a handle is kept, or else they are chosen again. */
const LARGEST_KEPT = 300_000_000;

const store = createStore('iconomos', 'files-to-send');

/** @param file one with a handle, where the browser gives such to pages (File System standard) */
export async function keep(
  key: string,
  kept: Omit<KeptFile, 'file'> & { file: File & { handle?: FileSystemFileHandle } },
): Promise<void> {
  const file = kept.file.size <= LARGEST_KEPT ? kept.file : kept.file.handle;
  if (file) await set(key, { ...kept, file }, store);
}

export function forget(key: string): Promise<void> {
  return del(key, store);
}

export async function allKept(): Promise<[string, KeptFile][]> {
  return entries<string, KeptFile>(store);
}

/** Whether a page may read through its handle now, or after asking the person (File System Access draft). */
interface Permissions {
  queryPermission(mode: { mode: 'read' }): Promise<PermissionState>;
  requestPermission(mode: { mode: 'read' }): Promise<PermissionState>;
}

/**
 * The kept file itself.
 * @param ask the person has just clicked, so the browser may ask for leave
 * @returns undefined when leave is needed; null when the file is gone
 */
export async function fileOf(
  { file }: KeptFile,
  ask = false,
): Promise<(File & { handle?: FileSystemFileHandle }) | null | undefined> {
  if (file instanceof File) return file;
  const handle = file as FileSystemFileHandle & Permissions;
  const state = ask
    ? await handle.requestPermission({ mode: 'read' })
    : await handle.queryPermission({ mode: 'read' });
  if (state !== 'granted') return undefined;
  try {
    return Object.assign(await handle.getFile(), { handle });
  } catch {
    return null; // Moved or deleted since.
  }
}
