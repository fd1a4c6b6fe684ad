import { asSetting } from '../intake/rules.ts';
import { isWithin, type SitePath } from '../address/path.ts';
import { each, type Breathe } from '../paced.ts';
import { cleanTag } from '../describe/record.ts';
import { emptyPlan, type Plan, type SettingNamespace, type SettingStep, type SettingValue } from './plan.ts';

/** Plans another value for one setting. The same value is an empty plan. */
export function planSetting(
  title: string,
  namespace: SettingNamespace,
  key: string,
  before: SettingValue,
  after: SettingValue,
): Plan {
  const plan = emptyPlan('arrange', title);
  if (!sameValue(before, after)) plan.settings = [{ namespace, key, before, after }];
  return plan;
}

/** Whether two settings are the same; the order of their parts does not matter. */
export function sameValue(one: SettingValue, other: SettingValue): boolean {
  return sorted(one) === sorted(other);
}
function sorted(value: SettingValue): string {
  return typeof value === 'object' && value !== null
    ? JSON.stringify(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)))
    : JSON.stringify(value);
}

/** Tells of each of some steps whether its setting is changed only once by them. */
export async function seenOnce(
  steps: readonly SettingStep[],
  breathe: Breathe,
): Promise<(step: SettingStep) => boolean> {
  const keyOf = ({ namespace, key }: SettingStep) => `${namespace} ${key}`;
  const times = new Map<string, number>();
  await each(steps, breathe, (step) => times.set(keyOf(step), (times.get(keyOf(step)) ?? 0) + 1));
  return (step) => times.get(keyOf(step)) === 1;
}

/** How tags belong together, by their names. */
export interface TagSense {
  /** Another spelling -> the tag that it stands for. */
  spellings: { spelling: string; tag: string }[];
  /** A tag -> the tag above it: asking for that one finds this one too. */
  above: { tag: string; above: string }[];
}

const same = (one: string, other: string) => one.toLowerCase() === other.toLowerCase();

/** Everything that a tag is found under: itself, its other spellings, the tags above it with theirs. */
export function meantBy(tag: string, sense: TagSense): string[] {
  const found = [tag];
  for (let at: string | undefined = tag; at !== undefined;) {
    const up: string | undefined = sense.above.find((one) => same(one.tag, at!))?.above;
    at = up !== undefined && !found.some((one) => same(one, up)) ? up : undefined;
    if (at !== undefined) found.push(at);
  }
  return [
    ...found,
    ...sense.spellings.filter((one) => found.some((name) => same(name, one.tag))).map((one) => one.spelling),
  ];
}

/**
 * What follows for spellings and hierarchy when a tag becomes another.
 * @param merged the other one is there already: the old spelling is kept, so that it still finds
 */
export function tagBecomes(from: string, to: string, merged: boolean, sense: TagSense): SettingStep[] {
  const steps: SettingStep[] = [];
  if (same(from, to)) return steps;
  for (const one of sense.spellings) {
    if (same(one.spelling, to))
      steps.push({ namespace: 'tag-spelling', key: one.spelling, before: one.tag, after: null });
    else if (same(one.tag, from))
      steps.push({ namespace: 'tag-spelling', key: one.spelling, before: one.tag, after: to });
  }
  if (merged) steps.push({ namespace: 'tag-spelling', key: from, before: null, after: to });
  const own = sense.above.find((one) => same(one.tag, from));
  const others = sense.above.find((one) => same(one.tag, to));
  if (own) {
    steps.push({ namespace: 'tag-above', key: own.tag, before: own.above, after: null });
    if (!others && !meantBy(own.above, sense).some((name) => same(name, to)))
      steps.push({ namespace: 'tag-above', key: to, before: null, after: own.above });
  }
  for (const one of sense.above) {
    if (!same(one.above, from)) continue;
    const turns = same(one.tag, to);
    steps.push({ namespace: 'tag-above', key: one.tag, before: one.above, after: turns ? null : to });
  }
  return steps;
}

/** Plans to keep another spelling of a tag, under which it is found too. */
export function planSpelling(tag: string, spelling: string, there: readonly string[], sense: TagSense): Plan {
  const clean = cleanTag(spelling);
  const before = sense.spellings.find((one) => same(one.spelling, clean));
  const plan = planSetting(
    `Add the spelling “${clean}” to the tag “${tag}”`,
    'tag-spelling',
    before?.spelling ?? clean,
    before?.tag ?? null,
    tag,
  );
  if (clean === '' || same(clean, tag))
    plan.clashes.push({ path: clean, why: 'Enter a spelling that differs from the tag.' });
  if (there.some((one) => same(one, clean)))
    plan.clashes.push({
      path: clean,
      why: 'This is a tag of its own. Merge it with this one instead; its spelling is kept.',
    });
  return plan;
}

/** Plans to put a tag below another, or below none. A circle is a clash. */
export function planAbove(tag: string, above: string | null, sense: TagSense): Plan {
  const before = sense.above.find((one) => same(one.tag, tag));
  const plan = planSetting(
    above === null ? `Move the tag “${tag}” to the top level` : `Move the tag “${tag}” under “${above}”`,
    'tag-above',
    before?.tag ?? tag,
    before?.above ?? null,
    above,
  );
  if (above !== null && meantBy(above, sense).some((name) => same(name, tag)))
    plan.clashes.push({ path: tag, why: `“${above}” is the same tag or already under it.` });
  return plan;
}

/** The rules of a folder that moves go along with it. */
export function rulesFollow(
  rules: readonly { folder: SitePath }[],
  from: SitePath,
  to: SitePath,
): SettingStep[] {
  const steps: SettingStep[] = [];
  for (const rule of rules) {
    if (!isWithin(from, rule.folder) || rule.folder === '') continue;
    const after = to + rule.folder.slice(from.length);
    const { folder: _folder, ...whole } = rule;
    const value = asSetting(whole) as SettingValue;
    steps.push({ namespace: 'folder-rule', key: rule.folder, before: value, after: null });
    if (after !== '' && !rules.some((one) => one.folder === after))
      steps.push({ namespace: 'folder-rule', key: after, before: null, after: value });
  }
  return steps;
}
