import { isReserved } from './name.ts';
import { pathFault, type SitePath } from './path.ts';

/**
 * Why nothing may be written to a path, or undefined when it may be: the gate for every path of a plan, an upload, a copy, an entry of an
 * archive or a setting. Beyond `pathFault`: no hidden name, none of a device, none that some systems would change.
 * @param known names that are there already, as a moved folder takes along what is hidden in it
 */
export function targetFault(path: SitePath, known: ReadonlySet<string> = new Set()): string | undefined {
  const fault = pathFault(path);
  if (fault) return fault;
  for (const name of path.split('/')) {
    if (known.has(name)) continue;
    if (name.startsWith('.') && name !== '.well-known')
      return `“${name}” starts with a dot: it would be hidden, and no page could use it.`;
    if (isReserved(name.split('.')[0]!)) return `“${name}” is the name of a device on some systems.`;
    if (/[. ]$/.test(name)) return `“${name}” ends with a dot or a space, which some systems drop.`;
  }
  return undefined;
}
