import type { PlanView } from '../../../api/plans.ts';
import type { SitePath } from '../../../core/address/path.ts';
import { LINK_FORM } from '../../../core/document/link-text.ts';
import type { OwnField } from '../../../core/describe/fields.ts';
import { ruleInWords, type FolderRule } from '../../../core/intake/rules.ts';
import { treatmentInWords, type Treatment } from '../../../core/picture/recipe/treatments.ts';
import { patternInWords, type NamePattern } from '../../../core/naming/pattern.ts';
import { each, setOf } from '../../../core/paced.ts';
import {
  isEmpty,
  type Plan,
  type RecordStep,
  type SettingStep,
  type SettingValue,
} from '../../../core/plan/plan.ts';
import { SERVICE_NAMES, type ServiceName } from '../../../core/plan/kinds/service.ts';
import { RECORD_NAMES } from '../../../core/plan/words.ts';
import { LAYOUT_NAMES, type LayoutPart } from '../../../core/reference/layout.ts';
import { CHECKS, type CheckName } from '../../../core/upkeep/checks.ts';
import type { Site } from '../../app/site.ts';
import type { Item } from '../../db/item-rows.ts';
import type { MemberValue } from '../../db/members.ts';
import type { SubmissionState, SubmissionValue } from '../../db/submissions.ts';
import type { Said } from '../../db/suggested-tags.ts';
import { breathe } from '../../workers/breathe.ts';
import { shownValue } from './version.ts';

/** So many of each kind of change are shown; the others are counted. */
const SHOWN = 500;
/** So many items are looked at. */
const SEEN = 12;
/** So many changes within pages. */
const CHANGES_SHOWN = 2000;

export async function planView(
  site: Pick<Site, 'items' | 'people'>,
  id: string,
  plan: Plan,
): Promise<PlanView> {
  const moves = new Shown<PlanView['moves'][number]>();
  const removed = new Shown<SitePath>();
  const created = new Shown<SitePath>();
  const settings = new Shown<PlanView['settings'][number]>();
  const described = new Shown<{ step: RecordStep; fields: (keyof typeof RECORD_NAMES)[] }>();
  const written = await setOf(plan.pages, breathe, (page) => page.page);
  await each(plan.files, breathe, (step) => {
    if (step.do === 'move') moves.add(() => ({ from: step.from, to: step.to }));
    else if (step.do === 'remove') removed.add(() => step.path);
    else if (step.do === 'create') created.add(() => step.path);
    else if (step.do === 'make-folder')
      settings.add(() => ({ what: 'Folder', before: '', after: step.path }));
    else if (step.do === 'drop-folder')
      settings.add(() => ({ what: 'Folder', before: step.path, after: '' }));
    else if (plan.kind === 'describe' && !written.has(step.path))
      settings.add(() => ({
        what: `${step.before === null ? 'New file' : 'Words into'} ${step.path}`,
        before: '',
        after: plan.written?.[step.path] || 'as they are now',
      }));
  });
  const seen: number[] = [];
  await each(plan.records, breathe, (step) => {
    const { itemId, before, after } = step;
    if (id !== '' && after.state !== undefined && seen.length < SEEN) seen.push(itemId);
    const fields = Object.keys(after).filter((field) => field in RECORD_NAMES);
    if (fields.length > 0) described.add(() => ({ step, fields: fields as (keyof typeof RECORD_NAMES)[] }));
    if (after.outside !== undefined)
      settings.add(() => ({
        what: 'Record of',
        before: before.path ?? site.items.get(itemId)?.path ?? '',
        after: after.path ?? (after.outside ? 'kept' : 'deleted'),
      }));
    if (after.family !== undefined)
      settings.add(() => ({
        what: `Family of ${site.items.get(itemId)?.path ?? ''}`,
        before: familyInWords(site, before.family),
        after: familyInWords(site, after.family),
      }));
  });
  const repeats = (step: SettingStep) => plan.records.length > 0 && onlyTaken(step);
  await each(plan.settings ?? [], breathe, (step) => {
    if (!repeats(step)) settings.add(() => shownSetting(site, step));
  });
  const pages: PlanView['pages'] = [];
  let [changes, unshown] = [0, 0];
  await each(plan.pages, breathe, (page, at) => {
    const shown = at < SHOWN ? page.changes.slice(0, CHANGES_SHOWN - changes) : [];
    if (shown.length > 0) pages.push({ page: page.page, changes: shown });
    changes += shown.length;
    unshown += page.changes.length - shown.length;
  });
  const paths = site.items.pathsOf(described.first.map(({ step }) => step.itemId));
  const more = (list: readonly unknown[]) => Math.max(0, list.length - SHOWN);
  return {
    id,
    kind: plan.kind,
    title: plan.title,
    moves: moves.first,
    removed: removed.first,
    created: created.first,
    settings: settings.first,
    records: described.first.map(({ step, fields }) => ({
      path: paths.get(step.itemId) ?? '',
      fields: fields.map((field) => ({
        field: RECORD_NAMES[field],
        before: shownValue(step.before[field]),
        after: shownValue(step.after[field]),
      })),
    })),
    pages,
    seen: site.items.some(seen).map((item) => ({
      id: item.id,
      path: item.path,
      sha256: item.sha256,
      kind: item.kind,
      alt: altOf(item),
    })),
    images: (plan.images ?? []).slice(0, SHOWN),
    more: {
      clashes: more(plan.clashes),
      moves: moves.more,
      removed: removed.more,
      created: created.more,
      settings: settings.more,
      records: described.more,
      pages: plan.pages.length - pages.length,
      changes: unshown,
    },
    clashes: plan.clashes.slice(0, SHOWN),
    warnings: plan.warnings.slice(0, SHOWN),
    redirects: plan.redirects.slice(0, SHOWN),
    totals: plan.totals,
    empty: isEmpty(plan),
    approval: '',
    together:
      plan.undoes !== undefined && plan.undoTogether
        ? { entryId: plan.undoes, later: plan.undoTogether }
        : null,
  };
}

/** Of suggested tags, nothing but what the records show. */
const onlyTaken = ({ namespace, before, after }: SettingStep): boolean => {
  const refused = (value: SettingValue) => JSON.stringify((value as Said | null)?.refused ?? []);
  return namespace === 'suggested-tags' && refused(before) === refused(after);
};

/** What stands for an image in its absence. */
const altOf = ({ words, kind }: Item): string =>
  kind !== 'image' ? '' : words.decorative ? 'decorative' : words.alt || 'no alt text';

/** The first of many, and how many more there are; what is not shown is not put into words either. */
class Shown<One> {
  readonly first: One[] = [];
  more = 0;
  add(one: () => One): void {
    if (this.first.length < SHOWN) this.first.push(one());
    else this.more++;
  }
}

function familyInWords(site: Pick<Site, 'items'>, family: number | null | undefined): string {
  if (family === null || family === undefined) return 'as it is found';
  return family === 0 ? 'not a size' : `a size of ${site.items.get(family)?.path ?? 'an item that is gone'}`;
}

const SUBMISSION_NAMES: Record<SubmissionState, string> = {
  waiting: 'waits for approval',
  returned: 'sent back',
  applied: 'applied',
  withdrawn: 'not proposed',
};

function shownSetting(site: Pick<Site, 'items' | 'people'>, { namespace, key, before, after }: SettingStep) {
  const rule = (value: SettingValue) =>
    value === null ? '' : ruleInWords(value as unknown as Omit<FolderRule, 'folder'>) || 'anything';
  const query = (value: SettingValue) => (value === null ? '' : (value as { query: string }).query);
  const pattern = (value: SettingValue) =>
    value === null ? '' : patternInWords(value as unknown as NamePattern);
  const field = (value: SettingValue) => {
    if (value === null) return '';
    const { kind, choices } = value as unknown as Omit<OwnField, 'name'>;
    return choices.length > 0 ? `${kind}: ${choices.join(', ')}` : kind;
  };
  const text = (value: SettingValue) => (value === null ? '' : String(value));
  switch (namespace) {
    case 'folder-rule':
      return { what: `Rules of ${key || 'the site’s root'}`, before: rule(before), after: rule(after) };
    case 'kept-query':
      return { what: `Saved search “${key}”`, before: query(before), after: query(after) };
    case 'name-pattern':
      return { what: `Pattern “${key}”`, before: pattern(before), after: pattern(after) };
    case 'treatment': {
      const said = (value: SettingValue) =>
        value === null ? '' : treatmentInWords(value as unknown as Omit<Treatment, 'name'>);
      return { what: `Treatment “${key}”`, before: said(before), after: said(after) };
    }
    case 'own-field':
      return { what: `Field “${key}”`, before: field(before), after: field(after) };
    case 'tag-spelling':
      return { what: `“${key}” finds the tag`, before: text(before), after: text(after) };
    case 'tag-above':
      return { what: `“${key}” lies below`, before: text(before), after: text(after) };
    case 'comment': {
      const said = (value: SettingValue) => (value === null ? '' : (value as { text: string }).text);
      const path = site.items.get(Number(key.slice(0, key.indexOf(' '))))?.path ?? '';
      return { what: `Comment on ${path}`, before: said(before), after: said(after) };
    }
    case 'proposal': {
      const said = (value: SettingValue) => {
        const { state, answer } = value as unknown as SubmissionValue;
        return answer === '' ? SUBMISSION_NAMES[state] : `${SUBMISSION_NAMES[state]}: ${answer}`;
      };
      return { what: `Proposal ${key}`, before: said(before), after: said(after) };
    }
    case 'service': {
      const limit = key.endsWith('-limit');
      const name = SERVICE_NAMES[key.replace(/-limit$/, '') as ServiceName];
      return {
        what: limit ? `Images a month, ${name}` : `Address of the ${name}`,
        before: text(before),
        after: text(after),
      };
    }
    case 'link-form':
      return {
        what: 'Links to documents',
        before: text(before) || LINK_FORM,
        after: text(after) || LINK_FORM,
      };
    case 'suggested-tags': {
      const said = (value: SettingValue) => {
        const { taken = [], refused = [] } = (value ?? {}) as unknown as Partial<Said>;
        const parts = [
          ...(taken.length > 0 ? [`to confirm: ${taken.join(', ')}`] : []),
          ...(refused.length > 0 ? [`refused: ${refused.join(', ')}`] : []),
        ];
        return parts.join('; ');
      };
      const path = site.items.get(Number(key))?.path ?? '';
      return { what: `Suggested tags of ${path}`, before: said(before), after: said(after) };
    }
    case 'proposer': {
      const said = (value: SettingValue) =>
        site.people.rows().find(({ id }) => id === Number(value))?.name ?? '';
      return { what: `Author of proposal ${key}`, before: said(before), after: said(after) };
    }
    case 'person': {
      const said = (value: SettingValue) => {
        if (value === null) return '';
        const { role, folders, ended } = value as unknown as MemberValue;
        return `${role || 'no role'}${folders.length > 0 ? ` in ${folders.join(', ')}` : ''}${ended ? ', ended' : ''}`;
      };
      const { name } = (after ?? before) as unknown as MemberValue;
      return { what: name, before: said(before), after: said(after) };
    }
    case 'upkeep':
      return {
        what: 'Days to keep items set aside',
        before: text(before) || '30',
        after: text(after) || '30',
      };
    case 'dismissal': {
      const said = (value: SettingValue) =>
        value === null ? 'to be done' : `dismissed: ${(value as { reason: string }).reason}`;
      const [name, subject] = [key.slice(0, key.indexOf(' ')), key.slice(key.indexOf(' ') + 1)];
      const item = CHECKS[name as CheckName].about === 'item' ? site.items.get(Number(subject)) : undefined;
      return {
        what: `${CHECKS[name as CheckName].name}: ${item?.path ?? subject}`,
        before: said(before),
        after: said(after),
      };
    }
    case 'layout': {
      const lines = (value: SettingValue) =>
        value === null
          ? 'found out'
          : (value as string)
              .split('\n')
              .map((line) => line || 'the site’s own folder')
              .join(', ');
      return { what: LAYOUT_NAMES[key as LayoutPart], before: lines(before), after: lines(after) };
    }
  }
}
