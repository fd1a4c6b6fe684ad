import { cleanTag } from '../../core/describe/record.ts';
import { emptyPlan, type SettingStep, type SettingValue } from '../../core/plan/plan.ts';
import { sameValue } from '../../core/plan/settings.ts';
import { recordStep } from '../../core/plan/words.ts';
import type { RequestOf } from '../../core/plan/kinds/index.ts';
import { count } from '../../core/text/format.ts';
import type { Site } from '../app/site.ts';
import type { Said } from '../db/suggested-tags.ts';
import { breathe } from '../workers/breathe.ts';
import { bearers } from './records.ts';
import type { Proposal } from './proposal.ts';

const has = (tags: readonly string[], tag: string) =>
  tags.some((one) => one.toLowerCase() === tag.toLowerCase());

/** Plans what people say to suggested tags: those that are taken are borne, and told apart until they are confirmed; the others are not offered again. */
export async function proposeSuggestedTags(
  site: Pick<Site, 'items' | 'tags' | 'suggestedTags'>,
  suggestions: RequestOf<'suggested-tags'>['suggestions'],
): Promise<Proposal> {
  const plan = emptyPlan('describe', '');
  const settings: SettingStep[] = [];
  const wanted = new Map(suggestions.map((one) => [one.itemId, one]));
  const spelled = new Map<string, string>();
  const spelling = (tags: readonly string[]) =>
    tags.map(cleanTag).map((tag) => {
      if (!spelled.has(tag)) spelled.set(tag, site.tags.spelling([tag])[0]!);
      return spelled.get(tag)!;
    });
  let [added, refused] = [0, 0];
  const items = await site.items.many([...wanted.keys()]);
  // What is said of a size is said of its image.
  const said = new Map<number, Said>();
  for (const bearer of await bearers(site, [...wanted.keys()]))
    said.set(bearer.id, { taken: [], refused: [] });
  for (const { id, sizeOf } of items) {
    await breathe();
    const { take, refuse } = wanted.get(id)!;
    const one = said.get(sizeOf ?? id)!;
    one.taken.push(...spelling(take));
    one.refused.push(...spelling(refuse));
  }
  const earlier = await site.suggestedTags.saidOf([...said.keys()]);
  for (const item of await site.items.many([...said.keys()])) {
    await breathe();
    const { taken, refused: no } = said.get(item.id)!;
    const fresh = [...new Set(taken)].filter((tag) => !has(item.words.tags, tag) && !has(no, tag));
    const step = fresh.length > 0 ? recordStep(item, { addTags: fresh }) : undefined;
    if (step) plan.records.push(step);
    const before = earlier.get(item.id)!;
    const after: Said = {
      taken: [...before.taken.filter((tag) => !has([...no, ...fresh], tag)), ...fresh].sort(),
      refused: [...new Set([...before.refused.filter((tag) => !has(taken, tag)), ...no])].sort(),
    };
    const change = settingStep(item.id, before, after);
    if (change) settings.push(change);
    added += fresh.length;
    refused += after.refused.filter((tag) => !has(before.refused, tag)).length;
  }
  plan.settings = settings;
  plan.totals.items = Math.max(plan.records.length, settings.length);
  const parts = [
    ...(added > 0 ? [`add ${count(added, 'suggested tag')} to ${count(plan.records.length, 'item')}`] : []),
    ...(refused > 0
      ? [`refuse ${added > 0 ? refused.toLocaleString('en') : count(refused, 'suggested tag')}`]
      : []),
  ];
  const title = parts.join(', ') || 'leave the suggested tags as they are';
  plan.title = title.charAt(0).toUpperCase() + title.slice(1);
  return { plan };
}

/** Plans that suggested tags are as those that people wrote. @param tags all where none are named */
export async function proposeConfirmedTags(
  site: Pick<Site, 'items' | 'suggestedTags'>,
  ids: readonly number[],
  tags: readonly string[] | undefined,
): Promise<Proposal> {
  const plan = emptyPlan('describe', '');
  plan.settings = [];
  let confirmed = 0;
  const items = await bearers(site, ids);
  const said = await site.suggestedTags.saidOf(items.map(({ id }) => id));
  for (const item of items) {
    await breathe();
    const before = said.get(item.id)!;
    const done = before.taken.filter((tag) => !tags || has(tags, tag));
    const after = { ...before, taken: before.taken.filter((tag) => !has(done, tag)) };
    const step = settingStep(item.id, before, after);
    if (!step) continue;
    plan.settings.push(step);
    confirmed += done.length;
  }
  plan.totals.items = plan.settings.length;
  plan.title = `Confirm ${count(confirmed, 'suggested tag')} of ${count(plan.settings.length, 'item')}`;
  return { plan };
}

function settingStep(itemId: number, one: Said, other: Said): SettingStep | undefined {
  const [before, after] = [valueOf(one), valueOf(other)];
  if (sameValue(before, after)) return undefined;
  return { namespace: 'suggested-tags', key: String(itemId), before, after };
}
const valueOf = (said: Said): SettingValue =>
  said.taken.length + said.refused.length === 0 ? null : { ...said };
