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

/** One line that changes: as it was and as it is; empty where it comes or goes. */
export interface LineEdit {
  /** In the text as it is, or where it was when it goes; from 1. */
  line: number;
  before: string | undefined;
  after: string | undefined;
}

/** Every line that changes; one that took the place of another is told with it. */
export function lineEdits(before: string, after: string): LineEdit[] {
  const edits: LineEdit[] = [];
  const runs = lineRuns(before, after);
  let line = 1;
  for (let at = 0; at < runs.length; at++) {
    const [one, next] = [runs[at]!, runs[at + 1]];
    if (one.what === 'same') {
      line += one.lines.length;
      continue;
    }
    const other = next && next.what !== 'same' && next.what !== one.what ? next : undefined;
    if (other) at++;
    const removed = (one.what === 'removed' ? one : other)?.lines ?? [];
    const added = (one.what === 'added' ? one : other)?.lines ?? [];
    for (let row = 0; row < Math.max(removed.length, added.length); row++)
      edits.push({ line: line + Math.min(row, added.length), before: removed[row], after: added[row] });
    line += added.length;
  }
  return edits;
}

export function sumOf(edits: readonly LineEdit[]): LineChanges {
  return {
    added: edits.filter((one) => one.before === undefined).length,
    removed: edits.filter((one) => one.after === undefined).length,
    changed: edits.filter((one) => one.before !== undefined && one.after !== undefined).length,
  };
}

/** As “2 lines changed, 1 added”. @param one what is counted */
export function sayChanges({ added, removed, changed }: LineChanges, one: 'line' | 'row' = 'line'): string {
  const parts = [
    [changed, 'changed'],
    [added, 'added'],
    [removed, 'removed'],
  ].filter(([number]) => Number(number) > 0);
  if (parts.length === 0) return `no ${one} changed`;
  return parts
    .map(([number, what], at) =>
      at === 0
        ? `${Number(number).toLocaleString('en')} ${number === 1 ? one : `${one}s`} ${what}`
        : `${Number(number).toLocaleString('en')} ${what}`,
    )
    .join(', ');
}
