import { asSetting, SITE_RULE, type FolderRule } from '../core/intake/rules.ts';
import { emptyPlan } from '../core/plan/plan.ts';
import { planWords } from '../core/plan/words.ts';
import type { Site } from '../server/app/site.ts';
import { TREATMENTS } from '../core/picture/recipe/treatments.ts';
import { catalogue } from './catalogue.ts';
import { EVENT_FOLDER, freshSets } from './sets.ts';

/** What the observatory's folders are for. */
const RULES: readonly FolderRule[] = [
  {
    ...SITE_RULE,
    folder: 'images/hero',
    purpose: 'wide pictures at the head of a page',
    leastWidth: 1920,
    leastHeight: 800,
    largestSide: 2400,
  },
  {
    ...SITE_RULE,
    folder: 'images/sky',
    purpose: 'pictures of the gallery, shown up to 1600 pixels wide',
    leastWidth: 1200,
    leastHeight: 800,
    largestSide: 1600,
    shape: '3:2',
  },
  {
    ...SITE_RULE,
    folder: 'images/shop',
    purpose: 'square pictures of things for sale',
    leastWidth: 800,
    leastHeight: 800,
    largestSide: 1200,
    shape: '1:1',
    keepOriginal: false,
  },
  {
    ...SITE_RULE,
    folder: EVENT_FOLDER,
    purpose: 'photographs of the open nights, for the album',
    treatment: TREATMENTS.find((one) => one.name === 'Event gallery')!,
  },
];

export const DEMO_PEOPLE = [
  { name: 'Ottilie Marrow', role: 'steward' },
  { name: 'Ben Thistlewick', role: 'editor' },
  { name: 'Ines Cobbledale', role: 'contributor' },
  { name: 'Piet Larkspur', role: 'reader' },
] as const;

/** Gives the demo's items the words that its people have written so far: one plan, one ledger entry. */
export async function writeDemoRecords(site: Site, seed: string): Promise<void> {
  const plan = emptyPlan('describe', '');
  for (const made of [...catalogue(seed), ...freshSets(seed)]) {
    const item = site.items.atPath(made.path);
    if (!item) continue;
    const { alt, title, caption, tags, creator, licence, licenceDays } = made;
    const licenceEnd =
      licenceDays === undefined
        ? made.licenceEnd
        : new Date(Date.parse(site.now()) + licenceDays * 86_400_000).toISOString().slice(0, 10);
    const words = Object.fromEntries(
      Object.entries({ alt, title, caption, tags, creator, licence, licenceEnd }).filter(
        ([, value]) => value !== undefined,
      ),
    );
    plan.records.push(...planWords(item, words).records);
  }
  plan.title = `Words of ${plan.records.length} items, from the observatory’s card index`;
  plan.totals.items = plan.records.length;
  await site.ledger.apply(plan, site.people.all()[0]!.id);
  const rules = emptyPlan('arrange', 'Rules of the folders, from the observatory’s handbook');
  rules.settings = RULES.map(({ folder, ...rule }) => ({
    namespace: 'folder-rule',
    key: folder,
    before: null,
    after: { ...asSetting(rule) },
  }));
  await site.ledger.apply(rules, site.people.all()[0]!.id);
}
