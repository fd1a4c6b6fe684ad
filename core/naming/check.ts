import { nameFaults, type NameFault } from '../address/name.ts';
import { baseName, type SitePath } from '../address/path.ts';
import { followsPattern } from './follows.ts';
import type { NamePattern } from './pattern.ts';

/** What is wrong with an item's name: in itself, and against the pattern of its folder (null: it has none). */
export function nameCheck(path: SitePath, pattern: NamePattern | null): NameFault[] {
  const faults = nameFaults(baseName(path));
  if (!pattern) return faults;
  const allowed = pattern.separator === '_' ? faults.filter((fault) => fault !== 'low-lines') : faults;
  return followsPattern(path, pattern) ? allowed : [...allowed, 'rule'];
}
