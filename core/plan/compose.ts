import { sameRecordValue } from './words.ts';
import type { SitePath } from '../address/path.ts';
import {
  emptyPlan,
  type FileRights,
  type FileStep,
  type Plan,
  type RecordStep,
  type SettingStep,
} from './plan.ts';

/** One file through several plans. */
interface Life {
  /** Where it lay and what it was before the first of them; null: it was not there. */
  before: { path: SitePath; sha256: string } | null;
  now: { path: SitePath; sha256: string } | null;
  /** It came or went as an item, from or into the content store; else it was written or removed as a page is. */
  stored: boolean;
  rights: FileRights;
}

/**
 * Several plans that were applied one after the other, as the one plan that has their effect: what they did to a file, a record or a setting on
 * the way does not show. Taken back, it brings back what was before the first.
 * @param plans in the order in which they were applied
 */
export function composePlans(plans: readonly Plan[]): Plan {
  const [first] = plans;
  const plan = emptyPlan(first?.kind ?? 'arrange', first?.title ?? '');
  plan.files = composedFiles(plans);
  plan.records = composedRecords(plans);
  plan.settings = composedSettings(plans);
  const pages = new Map<SitePath, Plan['pages'][number]['changes']>();
  const redirects = new Map<string, Plan['redirects'][number]>();
  for (const one of plans) {
    for (const { page, changes } of one.pages) pages.set(page, [...(pages.get(page) ?? []), ...changes]);
    for (const { from, to, was } of one.redirects) {
      const before = redirects.get(from)?.was ?? (redirects.has(from) ? undefined : was);
      redirects.set(from, { from, to, ...(before === undefined ? {} : { was: before }) });
    }
  }
  plan.pages = [...pages].map(([page, changes]) => ({ page, changes }));
  plan.redirects = [...redirects.values()];
  plan.makes = [...new Set(plans.flatMap((one) => one.makes ?? []))].sort((a, b) => a.length - b.length);
  plan.totals = {
    items: Math.max(0, ...plans.map((one) => one.totals.items)),
    pages: plan.pages.length,
    spans: plan.pages.reduce((sum, page) => sum + page.changes.length, 0),
    bytesFreed: 0,
  };
  return plan;
}

function composedFiles(plans: readonly Plan[]): FileStep[] {
  const lives: Life[] = [];
  const at = new Map<SitePath, Life>();
  const folders = new Map<SitePath, 'make-folder' | 'drop-folder'>();
  /** What lies at a path; of what was not met yet, it is known from the step. */
  const lifeAt = (path: SitePath, sha256: string): Life => {
    const there = at.get(path);
    if (there) return there;
    const life: Life = { before: { path, sha256 }, now: { path, sha256 }, stored: false, rights: {} };
    lives.push(life);
    return life;
  };
  /** A file comes to a path: where another one went from it, both are one file with other bytes. */
  const come = (path: SitePath, sha256: string, stored: boolean, rights: FileRights) => {
    const gone = lives.find((life) => life.now === null && life.before?.path === path);
    const life: Life = gone ?? { before: null, now: null, stored, rights };
    if (!gone) lives.push(life);
    life.now = { path, sha256 };
    at.set(path, life);
  };
  for (const { files } of plans) {
    // Within one plan files go, then move all at once, then come, then get their bytes.
    for (const step of files)
      if (step.do === 'remove') {
        const life = lifeAt(step.path, step.sha256);
        at.delete(step.path);
        life.now = null;
        life.stored = true;
        life.rights = { ...rightsOf(step), ...life.rights };
      }
    const moving = files.flatMap((step) =>
      step.do === 'move' ? [{ to: step.to, from: step.from, life: lifeAt(step.from, step.sha256) }] : [],
    );
    for (const { from } of moving) at.delete(from);
    for (const { to, life } of moving) {
      life.now = { path: to, sha256: life.now!.sha256 };
      at.set(to, life);
    }
    for (const step of files) {
      if (step.do === 'create') come(step.path, step.sha256, true, rightsOf(step));
      else if (step.do === 'make-folder' || step.do === 'drop-folder') {
        // Made and dropped again, it is as it was.
        if (folders.has(step.path) && folders.get(step.path) !== step.do) folders.delete(step.path);
        else folders.set(step.path, step.do);
      } else if (step.do === 'write') {
        if (step.before === null) come(step.path, step.after!, false, {});
        else {
          const life = lifeAt(step.path, step.before);
          if (step.after === null) {
            at.delete(step.path);
            life.now = null;
          } else {
            life.now = { path: step.path, sha256: step.after };
            at.set(step.path, life);
          }
        }
      }
    }
  }
  const steps = lives.flatMap(({ before, now, stored, rights }): FileStep[] => {
    if (!before && !now) return [];
    if (!before)
      return stored
        ? [{ do: 'create', path: now!.path, sha256: now!.sha256, ...rights }]
        : [{ do: 'write', path: now!.path, before: null, after: now!.sha256 }];
    if (!now)
      return stored
        ? [{ do: 'remove', path: before.path, sha256: before.sha256, ...rights }]
        : [{ do: 'write', path: before.path, before: before.sha256, after: null }];
    return [
      ...(before.path === now.path
        ? []
        : [{ do: 'move' as const, from: before.path, to: now.path, sha256: before.sha256 }]),
      ...(before.sha256 === now.sha256
        ? []
        : [{ do: 'write' as const, path: now.path, before: before.sha256, after: now.sha256 }]),
    ];
  });
  const order: FileStep['do'][] = ['make-folder', 'remove', 'move', 'create', 'write', 'drop-folder'];
  return [...steps, ...[...folders].map(([path, what]): FileStep => ({ do: what, path }))].sort(
    (a, b) => order.indexOf(a.do) - order.indexOf(b.do),
  );
}

function composedRecords(plans: readonly Plan[]): RecordStep[] {
  const byItem = new Map<number, RecordStep>();
  for (const { records } of plans)
    for (const { itemId, rowVersion, before, after } of records) {
      const step = byItem.get(itemId);
      if (!step) {
        byItem.set(itemId, { itemId, rowVersion, before: { ...before }, after: { ...after } });
        continue;
      }
      step.before = { ...before, ...step.before };
      Object.assign(step.after, after);
    }
  return [...byItem.values()].flatMap((step) => {
    for (const field of Object.keys(step.after) as (keyof RecordStep['after'])[])
      if (sameRecordValue(step.after[field], step.before[field])) {
        delete step.after[field];
        delete step.before[field];
      }
    return Object.keys(step.after).length > 0 ? [step] : [];
  });
}

function composedSettings(plans: readonly Plan[]): SettingStep[] {
  const byKey = new Map<string, SettingStep>();
  for (const { settings } of plans)
    for (const step of settings ?? []) {
      const key = `${step.namespace} ${step.key}`;
      const there = byKey.get(key);
      byKey.set(key, there ? { ...there, after: step.after } : { ...step });
    }
  return [...byKey.values()].filter((step) => JSON.stringify(step.before) !== JSON.stringify(step.after));
}

const rightsOf = ({ mode, owner }: FileRights): FileRights => ({
  ...(mode === undefined ? {} : { mode }),
  ...(owner === undefined ? {} : { owner }),
});
