import type { Checking } from '../intake/checking.ts';
import type { Analyser } from '../media/analyser.ts';
import type { Checks } from '../upkeep/checks.ts';
import type { Matching } from '../upkeep/matching.ts';
import type { Site } from './site.ts';

/** A site with the services that work on it by themselves. */
export interface OpenedSite extends Site {
  /** The door: files that have arrived are checked by it. */
  readonly checking: Checking;
  readonly analyser: Analyser;
  /** Finds images that show the same. */
  readonly matching: Matching;
  /** What is to be done in the library. */
  readonly checks: Checks;
  /** Waits for what goes on, and lets go of everything. */
  close(): Promise<void>;
}
