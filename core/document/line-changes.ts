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
  /** Of a workbook: the cell, where it is one of a row that stays. */
  cell?: string;
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

/** As “2 lines changed, 1 added”; of a workbook, as “2 cells changed, 1 row added”. */
export function sayChanges({ added, removed, changed }: LineChanges, isWorkbook = false): string {
  const names = isWorkbook ? ['cell', 'row', 'row'] : ['line', 'line', 'line'];
  const parts = [
    { number: changed, what: 'changed', name: names[0]! },
    { number: added, what: 'added', name: names[1]! },
    { number: removed, what: 'removed', name: names[2]! },
  ].filter(({ number }) => number > 0);
  if (parts.length === 0) return `no ${names[0]!} changed`;
  return parts
    .map(({ number, what, name }, at) => {
      const counted = number.toLocaleString('en');
      if (at > 0 && parts[at - 1]!.name === name) return `${counted} ${what}`;
      return `${counted} ${number === 1 ? name : `${name}s`} ${what}`;
    })
    .join(', ');
}
