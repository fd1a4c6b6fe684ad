import type { EntryAbout } from '../db/ledger.ts';
import type { SitePath } from '../../core/address/path.ts';

/** How an act is followed and stopped. */
export interface ApplyOptions extends EntryAbout {
  /** Called with how many of the steps are done. */
  progress?: ((done: number, total: number, what: string) => void) | undefined;
  /** Stops it, as long as nothing has been put in place: then all is as before. */
  signal?: AbortSignal | undefined;
  /** Called with the size and time of each file that was written. */
  wrote?: ((path: SitePath, facts: { bytes: number; mtimeMs: number }) => void) | undefined;
  /** Called when all files are in place; the records come next. */
  switched?: (() => Promise<void>) | undefined;
}
