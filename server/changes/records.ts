import { TREATMENTS, type Treatment } from '../../core/picture/recipe/treatments.ts';
import { edited, editInWords, type Edit } from '../../core/describe/edits.ts';
import { FIELD_NAMES, fieldFault, ownFault, type TextField, type Words } from '../../core/describe/fields.ts';
import { cleanTag } from '../../core/describe/record.ts';
import type { SitePath } from '../../core/address/path.ts';
import { targetFault } from '../../core/address/target.ts';
import { asSetting } from '../../core/intake/rules.ts';
import type { NamePattern } from '../../core/naming/pattern.ts';
import { emptyPlan, type Plan, type RecordStep, type SettingValue } from '../../core/plan/plan.ts';
import { planAbove, planSetting, planSpelling, tagBecomes } from '../../core/plan/settings.ts';
import { LAYOUT_NAMES, LAYOUT_PARTS, readLayoutPart, type LayoutPart } from '../../core/reference/layout.ts';
import {
  planOfSteps,
  planWords,
  recordStep,
  sameRecordValue,
  type RecordChange,
} from '../../core/plan/words.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import { ALL_HERE } from '../db/item-query.ts';
import type { Item } from '../db/item-rows.ts';
import { breathe } from '../workers/breathe.ts';
import type { Proposal } from './proposal.ts';

/** What is written of a size of an image is written in that image's record, once: of each item the one that bears its words. */
export async function bearers(site: Pick<Site, 'items'>, ids: readonly number[]): Promise<Item[]> {
  const items = await site.items.many(ids);
  if (items.every((item) => item.sizeOf === null)) return items;
  return site.items.many([...new Set(items.map((item) => item.sizeOf ?? item.id))]);
}

/** Plans one change of items, with breaths. */
async function planOfMany(items: readonly Item[], change: RecordChange): Promise<Plan> {
  const steps: RecordStep[] = [];
  for (const item of items) {
    const step = recordStep(item, change);
    if (step) steps.push(step);
    await breathe();
  }
  return planOfSteps(steps, change);
}

/** Plans a change of one record's words. @throws Fault 'stale-record' when the record is newer than `rowVersion` */
export async function proposeWords(
  site: Pick<Site, 'items' | 'records' | 'tags'>,
  id: number,
  rowVersion: number,
  changes: Partial<Words>,
): Promise<Proposal> {
  const named = site.items.need(id);
  if (named.rowVersion !== rowVersion) throw site.records.staleRecord(id);
  const [item] = (await bearers(site, [id])) as [Item];
  const words = changes.tags ? { ...changes, tags: site.tags.spelling(changes.tags.map(cleanTag)) } : changes;
  return { plan: planWords(item, words) };
}

/** Plans one change of many records. @throws Fault 'not-found' for a person who is not there */
export async function proposeRecords(
  site: Pick<Site, 'items' | 'people' | 'tags'>,
  ids: readonly number[],
  change: RecordChange,
): Promise<Proposal> {
  if (change.owner && !site.people.all().some((person) => person.name === change.owner))
    throw new Fault('not-found', `There is no one called “${change.owner}”.`, 'Choose one from the list.');
  const addTags = change.addTags && site.tags.spelling(change.addTags.map(cleanTag));
  const plan = await planOfMany(await bearers(site, ids), { ...change, addTags });
  return { plan };
}

/**
 * Plans other words for each of some records. Of a record that has changed since `rowVersion`, the change stands in the
 * way: nobody's words are written over unseen.
 */
export async function proposeCells(
  site: Pick<Site, 'items' | 'tags' | 'ownFields'>,
  cells: readonly { itemId: number; rowVersion?: number | undefined; set: Partial<Words> }[],
): Promise<Proposal> {
  const plan = emptyPlan('describe', '');
  const fields = site.ownFields.all();
  const found = await site.items.many(cells.map((one) => one.itemId));
  const named = new Map(found.map((item) => [item.id, item]));
  const mains = new Map((await bearers(site, [...named.keys()])).map((item) => [item.id, item]));
  const written = new Map<number, Partial<Words>>();
  for (const { itemId, rowVersion, set } of cells) {
    await breathe();
    const item = named.get(itemId) ?? site.items.need(itemId);
    const bearer = mains.get(item.sizeOf ?? item.id) ?? item;
    if (rowVersion !== undefined && rowVersion !== item.rowVersion) {
      const who = item.changedBy ?? 'Someone';
      plan.clashes.push({
        path: item.path,
        why: `${who} has changed this record in the meantime. Check it again.`,
      });
      continue;
    }
    const others = written.get(bearer.id) ?? {};
    written.set(bearer.id, { ...others, ...set });
    if (!sameRecordValue({ ...others, ...set }, { ...set, ...others })) {
      const why = 'It is one item with its sizes, but they get different text. Enter it once.';
      plan.clashes.push({ path: bearer.path, why });
    }
  }
  const changed = new Set<string>();
  for (const [id, set] of written) {
    await breathe();
    const item = mains.get(id)!;
    for (const [name, value] of Object.entries(set.own ?? {})) {
      const field = fields.find((one) => one.name === name);
      const fault = field ? ownFault(field, value) : `There is no field “${name}”.`;
      if (fault) plan.clashes.push({ path: item.path, why: fault });
    }
    const one = planWords(item, {
      ...set,
      ...(set.own ? { own: { ...item.words.own, ...set.own } } : {}),
      ...(set.tags ? { tags: site.tags.spelling(set.tags.map(cleanTag)) } : {}),
    });
    plan.records.push(...one.records);
    for (const step of one.records) for (const field of Object.keys(step.after)) changed.add(field);
  }
  plan.totals.items = plan.records.length;
  const what = [...changed].map((field) => FIELD_NAMES[field as keyof Words].toLowerCase()).join(', ');
  plan.title = `Set ${what || 'nothing'} of ${plan.records.length === 1 ? '1 item' : `${plan.records.length.toLocaleString('en')} items`}`;
  return { plan };
}

/** Plans one change of a text field of some records; those that it leaves as they are stay out. */
export async function proposeEdit(
  site: Pick<Site, 'items' | 'tags' | 'ownFields'>,
  ids: readonly number[],
  field: TextField,
  edit: Edit,
): Promise<Proposal> {
  const cells: { item: Item; text: string }[] = [];
  for (const item of await bearers(site, ids)) {
    const text = edited(item.words, field, edit);
    if (text !== undefined) cells.push({ item, text });
    await breathe();
  }
  const proposal = await proposeCells(
    site,
    cells.map(({ item, text }) => ({ itemId: item.id, set: { [field]: text } })),
  );
  for (const { item, text } of cells) {
    const fault = fieldFault(field, text);
    if (fault) proposal.plan.clashes.push({ path: item.path, why: fault });
  }
  const { length } = proposal.plan.records;
  proposal.plan.title = `${editInWords(field, edit)} of ${length === 1 ? '1 item' : `${length.toLocaleString('en')} items`}`;
  return proposal;
}

/** Plans another name for a tag, or to take it off every item. */
export async function proposeTag(
  site: Pick<Site, 'reader' | 'items' | 'finder' | 'tags'>,
  tag: string,
  to: string | null,
): Promise<Proposal> {
  const query = { join: 'all', not: false, of: [{ test: 'tag', value: tag, not: false }] } as const;
  const items = await site.items.many(
    await site.finder.idsApart(site.reader, {
      ...ALL_HERE,
      sizes: true,
      where: { ...query, of: [...query.of] },
    }),
  );
  // Only another case of the same letters is meant to be written as it is given.
  const sameLetters = to?.toLowerCase() === tag.toLowerCase();
  const addTags = to === null ? [] : sameLetters ? [cleanTag(to)] : site.tags.spelling([cleanTag(to)]);
  const merged = to !== null && !sameLetters && site.tags.isThere(addTags[0]!);
  const plan = await planOfMany(items, { removeTags: [tag], addTags });
  if (to !== null) plan.settings = tagBecomes(tag, addTags[0]!, merged, site.tags.sense());
  plan.title =
    to === null
      ? `Remove the tag “${tag}” from ${plan.records.length} items`
      : `${merged ? 'Merge' : 'Rename'} the tag “${tag}” ${merged ? 'into' : 'to'} “${addTags[0]}”, on ${plan.records.length} items`;
  return { plan };
}

/** Plans another spelling that finds a tag; or, with `drop`, that it finds it no longer. */
export function proposeSpelling(
  site: Pick<Site, 'tags'>,
  tag: string,
  spelling: string,
  drop: boolean,
): Proposal {
  const sense = site.tags.sense();
  const there = site.tags.names();
  const plan = drop
    ? planSetting(
        `Remove the spelling “${spelling}” from the tag “${tag}”`,
        'tag-spelling',
        spelling,
        site.tags.tagOfSpelling(spelling),
        null,
      )
    : planSpelling(tag, spelling, there, sense);
  return { plan };
}

/** Plans to put a tag below another one, or below none. */
export function proposeAbove(site: Pick<Site, 'tags'>, tag: string, above: string | null): Proposal {
  const to = above === null ? null : site.tags.spelling([cleanTag(above)])[0]!;
  return { plan: planAbove(tag, to, site.tags.sense()) };
}

/** Plans another rule for a folder; null: the one of the folder above holds there again. */
export function proposeRule(site: Pick<Site, 'rules'>, folder: SitePath, rule: SettingValue): Proposal {
  const where = `“${folder || 'the site’s root'}”`;
  const fault = folder === '' || rule === null ? undefined : targetFault(folder);
  if (fault) throw new Fault('bad-request', `${where} can’t have rules: ${fault}`, 'Choose another folder.');
  const title =
    rule === null ? `Remove the rules of the folder ${where}` : `Set the rules of the folder ${where}`;
  const kept = rule === null ? null : (asSetting(rule as object) as SettingValue);
  return {
    plan: planSetting(title, 'folder-rule', folder, site.rules.value(folder), kept),
  };
}

/** Plans to keep a pattern of names; null: it is forgotten. */
export function proposeNamePattern(
  site: Pick<Site, 'namePatterns'>,
  name: string,
  pattern: NamePattern | null,
): Proposal {
  const title = pattern === null ? `Delete the pattern “${name}”` : `Save the pattern “${name}”`;
  return {
    plan: planSetting(title, 'name-pattern', name, site.namePatterns.value(name), pattern && { ...pattern }),
  };
}

/** Plans to keep a treatment of images; null: it is forgotten. */
export function proposeTreatment(
  site: Pick<Site, 'treatments'>,
  name: string,
  treatment: Omit<Treatment, 'name'> | null,
): Proposal {
  if (TREATMENTS.some((one) => one.name.toLowerCase() === name.toLowerCase()))
    throw new Fault('bad-request', `“${name}” comes with Iconomos.`, 'Choose another name.');
  const title = treatment === null ? `Delete the treatment “${name}”` : `Save the treatment “${name}”`;
  return {
    plan: planSetting(title, 'treatment', name, site.treatments.value(name), treatment && { ...treatment }),
  };
}

/** Plans a field of the site's own; null: it is taken away, its values stay in the records. */
export function proposeOwnField(site: Pick<Site, 'ownFields'>, name: string, field: SettingValue): Proposal {
  const there = site.ownFields.value(name);
  const title =
    field === null ? `Delete the field “${name}”` : `${there ? 'Change' : 'Add'} the field “${name}”`;
  return { plan: planSetting(title, 'own-field', name, there, field) };
}

/** Plans another layout of the site's folder: only the parts that differ. @throws Fault when a line cannot be */
export function proposeLayout(
  site: Pick<Site, 'index' | 'layout'>,
  lines: Record<LayoutPart, string[]>,
): Proposal {
  const plan = emptyPlan('arrange', 'Set the site folders');
  for (const part of LAYOUT_PARTS) {
    const read = readLayoutPart(part, lines[part]);
    if ('fault' in read)
      throw new Fault('bad-request', `${LAYOUT_NAMES[part]}: ${read.fault}`, 'Correct it.');
    const unknown =
      part === 'published' ? [] : read.filter((path) => path !== '' && !site.index.folderPaths.has(path));
    const before = site.layout.value(part);
    const left = part === 'leftOut' && typeof before === 'string' ? before.split('\n') : [];
    for (const path of unknown.filter((path) => !left.includes(path)))
      plan.clashes.push({
        path,
        why: `${LAYOUT_NAMES[part]}: there is no such folder. Correct or remove it.`,
      });
    const after = read.length > 0 ? read.join('\n') : null;
    if (before !== after) (plan.settings ??= []).push({ namespace: 'layout', key: part, before, after });
  }
  return { plan };
}

/** Plans which folders are served from the site's root; '' is the site's own folder. All else of the layout stays. */
export function proposePublic(site: Pick<Site, 'index' | 'layout'>, folders: readonly SitePath[]): Proposal {
  const layout = { ...site.layout.get(), public: [...folders] };
  for (const part of LAYOUT_PARTS) layout[part] = layout[part].map((path) => path || '/');
  return proposeLayout(site, layout);
}

/** Plans to keep a query under a name; null: to keep it no longer. */
export function proposeKeptQuery(
  site: Pick<Site, 'savedQueries'>,
  name: string,
  kept: SettingValue,
): Proposal {
  const title = kept === null ? `Delete the saved search “${name}”` : `Save the search “${name}”`;
  return {
    plan: planSetting(title, 'kept-query', name, site.savedQueries.value(name), kept),
  };
}
