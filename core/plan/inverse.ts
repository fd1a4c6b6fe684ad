import { each, map, mapOf, WITHOUT_PAUSE, type Breathe } from '../paced.ts';
import type { SitePath } from '../address/path.ts';
import type { FileStep, Plan, RecordStep, SettingStep } from './plan.ts';

/**
 * The file steps that take a plan's steps back, in the order in which they must be done. As in every plan, files that move
 * and get other bytes move first: the new bytes are for the new place.
 */
export async function inverseFiles(
  files: readonly FileStep[],
  breathe: Breathe = WITHOUT_PAUSE,
): Promise<FileStep[]> {
  const movedFrom = await placesBefore(files, breathe);
  const written = await mapOf(files, breathe, (step) =>
    step.do === 'write' ? [step.path, step.after] : undefined,
  );
  const places = new Set(movedFrom.values());
  const first: FileStep[] = [];
  const last: FileStep[] = [];
  const inverse = (step: FileStep): FileStep => {
    switch (step.do) {
      case 'move':
        return { do: 'move', from: step.to, to: step.from, sha256: written.get(step.to) ?? step.sha256 };
      case 'write':
        return {
          do: 'write',
          path: movedFrom.get(step.path) ?? step.path,
          before: step.after,
          after: step.before,
        };
      case 'remove':
        return { ...step, do: 'create' };
      case 'create':
        return { ...step, do: 'remove' };
      case 'make-folder':
        return { do: 'drop-folder', path: step.path };
      case 'drop-folder':
        return { do: 'make-folder', path: step.path };
    }
  };
  await each([...files].reverse(), breathe, (step) => {
    const back = inverse(step);
    (back.do === 'write' && places.has(back.path) ? last : first).push(back);
  });
  return [...first, ...last];
}

/** Where files that move stand before: by their new place. */
export function placesBefore(
  files: readonly FileStep[],
  breathe: Breathe = WITHOUT_PAUSE,
): Promise<Map<SitePath, SitePath>> {
  return mapOf(files, breathe, (step) => (step.do === 'move' ? [step.to, step.from] : undefined));
}

/** The record steps that take a plan's steps back, against the row versions that the records have now. */
export function inverseRecords(
  records: readonly RecordStep[],
  rowVersion: (itemId: number) => number,
  breathe: Breathe = WITHOUT_PAUSE,
): Promise<RecordStep[]> {
  return map([...records].reverse(), breathe, (step) => ({
    itemId: step.itemId,
    rowVersion: rowVersion(step.itemId),
    before: step.after,
    after: step.before,
  }));
}

/** The settings' steps that take a plan's steps back. */
export function inverseSettings(settings: readonly SettingStep[]): SettingStep[] {
  return [...settings].reverse().map((step) => ({ ...step, before: step.after, after: step.before }));
}

/** The plan's pages with old and new exchanged, as an undo shows them. */
export function inversePages(plan: Plan): Plan['pages'] {
  return plan.pages.map((page) => ({
    page: page.page,
    changes: page.changes.map((change) => ({ ...change, oldUrl: change.newUrl, newUrl: change.oldUrl })),
  }));
}
