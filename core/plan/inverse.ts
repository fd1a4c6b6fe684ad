import type { FileStep, Plan, RecordStep } from './plan.ts';

/** The file steps that take a plan's steps back, in the order in which they must be done. */
export function inverseFiles(files: readonly FileStep[]): FileStep[] {
  return [...files].reverse().map((step): FileStep => {
    switch (step.do) {
      case 'move':
        return { do: 'move', from: step.to, to: step.from, sha256: step.sha256 };
      case 'write':
        return { do: 'write', path: step.path, before: step.after, after: step.before };
      case 'remove':
        return { do: 'create', path: step.path, sha256: step.sha256 };
      case 'create':
        return { do: 'remove', path: step.path, sha256: step.sha256 };
    }
  });
}

/** The record steps that take a plan's steps back, against the row versions that the records have now. */
export function inverseRecords(
  records: readonly RecordStep[],
  rowVersion: (itemId: number) => number,
): RecordStep[] {
  return [...records].reverse().map((step) => ({
    itemId: step.itemId,
    rowVersion: rowVersion(step.itemId),
    before: step.after,
    after: step.before,
  }));
}

/** The plan's pages with old and new exchanged, as an undo shows them. */
export function inversePages(plan: Plan): Plan['pages'] {
  return plan.pages.map((page) => ({
    page: page.page,
    changes: page.changes.map((change) => ({ ...change, oldUrl: change.newUrl, newUrl: change.oldUrl })),
  }));
}
