import { emptyPlan } from '../core/plan/plan.ts';
import { planWords } from '../core/plan/words.ts';
import type { Site } from '../server/site/site.ts';
import { catalogue } from './catalogue.ts';

export const DEMO_PEOPLE = [
  { name: 'Ottilie Marrow', role: 'steward' },
  { name: 'Ben Thistlewick', role: 'editor' },
  { name: 'Ines Cobbledale', role: 'editor' },
] as const;

/** Gives the demo's items the words that its people have written so far: one plan, one ledger entry. */
export async function writeDemoRecords(site: Site, seed: string): Promise<void> {
  const plan = emptyPlan('describe', '');
  for (const made of catalogue(seed)) {
    const item = site.items.atPath(made.path);
    if (!item) continue;
    const { alt, title, caption, tags, creator, licence, licenceEnd } = made;
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
}
