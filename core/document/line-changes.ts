/** What changed between two texts, by lines. */
import { diffLines } from 'diff';

export interface LineChanges {
  added: number;
  removed: number;
  /** Lines that were replaced by as many others: they are neither added nor removed. */
  changed: number;
}

/** A run of lines that are the same, or that came, or went. Lines are numbered from 1. */
export interface LineRun {
  what: 'same' | 'added' | 'removed';
  lines: string[];
}

export function lineRuns(before: string, after: string): LineRun[] {
  return diffLines(before, after).map(({ added, removed, value }) => ({
    what: added ? 'added' : removed ? 'removed' : 'same',
    lines: value.replace(/\n$/, '').split('\n'),
  }));
}

export function lineChanges(before: string, after: string): LineChanges {
  const sums: LineChanges = { added: 0, removed: 0, changed: 0 };
  const runs = lineRuns(before, after);
  for (let at = 0; at < runs.length; at++) {
    const [one, next] = [runs[at]!, runs[at + 1]];
    if (one.what === 'same') continue;
    const other = next && next.what !== 'same' && next.what !== one.what ? next : undefined;
    const removed = (one.what === 'removed' ? one : other)?.lines.length ?? 0;
    const added = (one.what === 'added' ? one : other)?.lines.length ?? 0;
    const both = Math.min(added, removed);
    sums.changed += both;
    sums.added += added - both;
    sums.removed += removed - both;
    if (other) at++;
  }
  return sums;
}

/** As “2 lines changed, 1 added”. */
export function sayChanges({ added, removed, changed }: LineChanges): string {
  const parts = [
    [changed, 'changed'],
    [added, 'added'],
    [removed, 'removed'],
  ].filter(([number]) => Number(number) > 0);
  if (parts.length === 0) return 'no line changed';
  return parts
    .map(([number, what], at) =>
      at === 0
        ? `${Number(number).toLocaleString('en')} ${number === 1 ? 'line' : 'lines'} ${what}`
        : `${Number(number).toLocaleString('en')} ${what}`,
    )
    .join(', ');
}
