import type { SitePath } from '../../core/address/path.ts';
import { variantsOf, type VariantFacts } from '../../core/naming/variants.ts';
import { ruleFor } from '../../core/intake/rules.ts';
import { itemFindings, type ItemFinding, type LibraryHabits } from '../../core/upkeep/item-checks.ts';
import { bindsPages, creditedItem, uncreditedOf, type Uncredited } from '../describe/credits.ts';
import { referencesToMoved } from '../scan/moved-references.ts';
import type { Site } from '../app/site.ts';
import type { Analyser } from '../media/analyser.ts';
import { mapOf } from '../../core/paced.ts';
import { breathe } from '../workers/breathe.ts';
import type { LibraryStatistics } from '../db/care.ts';
import type { StoredCheckInput } from '../db/findings.ts';

/** Items that are checked in one transaction. */
const SLICE = 20;
/** More are shown as running work. */
const LONG = 2000;
const DAY = 86_400_000;
/** Raise this when the checks say other things: everything is then checked anew. */
const CHECKS_VERSION = '11';

/**
 * Keeps what the checks say of the items up to date: the database notes which items have changed in any way that matters, and only those are
 * looked at again. A day, a rule or a habit of the library that changes makes those be looked at that depend on it.
 */
export class Checks {
  private running: Promise<void> = Promise.resolve();

  constructor(
    private readonly site: Pick<
      Site,
      | 'index'
      | 'folder'
      | 'pool'
      | 'families'
      | 'scanner'
      | 'db'
      | 'items'
      | 'references'
      | 'alikes'
      | 'findings'
      | 'care'
      | 'rules'
      | 'jobs'
      | 'now'
    >,
    private readonly analyser: Analyser,
  ) {}

  /** Checks what has changed. Resolves when all that is said is of the items as they are now; sooner when a scan begins meanwhile. */
  refresh(): Promise<void> {
    this.running = this.running.then(
      () => this.refreshNow(),
      () => this.refreshNow(),
    );
    return this.running;
  }

  /** What a check would say now of the use of items would not hold: the scan that connects them tells when it has ended. */
  private get useIsUnknown(): boolean {
    return this.site.index.useUnknown === 'reading';
  }

  private async refreshNow(): Promise<void> {
    const { findings, jobs } = this.site;
    if (this.useIsUnknown) return;
    const habits = await this.habits();
    await new Promise(setImmediate);
    const total = findings.uncheckedCount();
    if (total > LONG)
      await jobs.run('check', 'Checking the library', async ({ progress, signal }) => {
        await this.checkAll(habits, (done) => {
          signal.throwIfAborted();
          progress(Math.min(done, total), total, 'items checked');
        });
      });
    else await this.checkAll(habits, () => undefined);
  }

  private async checkAll(habits: LibraryHabits, progress: (done: number) => void): Promise<void> {
    const { findings } = this.site;
    let done = 0;
    // A scan may begin at any breath.
    while (!this.useIsUnknown) {
      const ids = findings.takeUnchecked(SLICE);
      if (ids.length === 0) return;
      await this.check(ids, habits);
      progress((done += ids.length));
      await breathe();
    }
  }

  private async check(ids: readonly number[], habits: LibraryHabits): Promise<void> {
    const { findings } = this.site;
    const inputs = findings.checkInputs(ids);
    const left = new Map<SitePath, number>();
    const moved = inputs.flatMap((one) => one.movedFrom ?? []);
    for (const { from } of await referencesToMoved(this.site, moved))
      left.set(from, (left.get(from) ?? 0) + 1);
    const alike = await this.alikeCounts(inputs);
    const uncredited = await this.uncredited(inputs);
    const found = new Map<number, { one: ItemFinding; looked: string }[]>();
    for (const input of inputs)
      found.set(
        input.id,
        itemFindings(
          {
            ...input,
            alike: alike.get(input.id) ?? 0,
            leftBehind: left.get(input.movedFrom ?? '') ?? 0,
            isSize: input.sizeOf !== null,
            sameAlt: await this.sharesAlt(input),
            uncredited: [...new Set(uncredited.get(input.id)?.missing.map(({ page }) => page))],
            selling: uncredited.get(input.id)?.selling ?? [],
            shownOn: this.shownOn(input),
          },
          habits,
        ).map((one) => ({ one, looked: `${input.sha256.slice(0, 16)} ${one.why}` })),
      );
    findings.save(ids, found, this.site.now());
  }

  /** Of how many other images each shows the same; sizes of one image count as one, and its own not at all. */
  private async alikeCounts(inputs: readonly StoredCheckInput[]): Promise<Map<number, number>> {
    const { alikes, items, references } = this.site;
    const counts = new Map<number, number>();
    for (const { id, sha256, state } of inputs) {
      const pairs = state === 'here' ? alikes.of(sha256) : [];
      if (pairs.length === 0) continue;
      const others = pairs.flatMap((pair) => items.withHash(pair.sha256));
      // Copies of the same bytes are one with it.
      const own = items.withHash(sha256);
      const group = [...own, ...others];
      const mainOf = await familyOf(group, references.sizeSets(group.map((one) => one.id)));
      // Of a size, it is told with its image.
      if (mainOf(id) !== id) continue;
      const mains = new Set(own.map((one) => mainOf(one.id)));
      const shown = new Map<string, number>();
      for (const one of others) {
        const main = mainOf(one.id);
        if (mains.has(main)) mains.add(one.id);
        else if (!mains.has(one.id)) shown.set(one.sha256, main);
      }
      const families = new Set(shown.values());
      if (families.size > 0) counts.set(id, families.size);
    }
    return counts;
  }

  /** Where pages don't keep what the licences of images ask for; a size is told with its image. */
  private uncredited(inputs: readonly StoredCheckInput[]): Promise<Map<number, Uncredited>> {
    const shown = inputs.filter((one) => one.state === 'here' && one.kind === 'image' && one.sizeOf === null);
    return uncreditedOf(
      this.site,
      shown.filter(({ words }) => bindsPages(words)).map((one) => creditedItem(this.site, one)),
    );
  }

  /** Pages that show an item whose licence ends, or one of its sizes. */
  private shownOn(input: StoredCheckInput): SitePath[] {
    if (input.state !== 'here' || input.words.licenceEnd === '' || input.sizeOf !== null) return [];
    return this.site.references.pagesShowing(creditedItem(this.site, input).paths);
  }

  /** Whether another image that is none of its sizes has its alt text. */
  private async sharesAlt(input: StoredCheckInput): Promise<boolean> {
    const others = input.sharesAlt;
    if (others.length === 0) return false;
    const all = [input, ...others];
    const mainOf = await familyOf(all, this.site.references.sizeSets(all.map((one) => one.id)));
    return others.some((one) => mainOf(one.id) !== mainOf(input.id));
  }

  /** What the library is like; what depends on a part that has changed is checked anew. */
  private async habits(): Promise<LibraryHabits> {
    const { findings, db, rules } = this.site;
    const today = this.site.now().slice(0, 10);
    const has = (column: 'language' | 'licence') =>
      db.value(`select exists (select 1 from item where state = 'here' and ${column} <> '')`) === 1;
    const [languages, licences] = [has('language'), has('licence')];
    const now = {
      version: CHECKS_VERSION,
      day: today,
      languages: String(languages),
      licences: String(licences),
    };
    const changed = (name: keyof typeof now) => findings.state(name) !== now[name];
    if (changed('version')) await findings.uncheck('1');
    else if (changed('languages') || changed('licences')) await findings.uncheck();
    else if (changed('day')) await findings.uncheck("state = 'here' and licence_end <> ''");
    for (const [name, value] of Object.entries(now)) findings.setState(name, value);
    const all = rules.all();
    return {
      today,
      soon: new Date(Date.parse(today) + 30 * DAY).toISOString().slice(0, 10),
      ruleOf: (folder) => ruleFor(folder, all),
      languages,
      licences,
    };
  }

  /** All there is to check, as it is done once a day: the site is read, new items are looked at, and how it stands is kept. */
  async daily(): Promise<void> {
    const { site } = this;
    await site.scanner.scan(true);
    await this.analyser.analyseAll();
    await this.refresh();
    await this.keepDay('', '');
  }

  /** How the library stands; kept as that of today. @param since, until as Care.now */
  async keepDay(since: string, until: string): Promise<LibraryStatistics> {
    const { care, now } = this.site;
    const statistics = await care.now(now().slice(0, 10), since, until);
    const kept = JSON.stringify(care.history(1)[0]);
    if (!this.useIsUnknown && kept !== JSON.stringify(statistics.care)) care.keep(statistics.care);
    return statistics;
  }

  async close(): Promise<void> {
    await this.running.catch(() => undefined);
  }
}

/** Which of some images each is a size, or another format, of: itself, if it is none. */
export async function familyOf(
  items: readonly (VariantFacts & { sizeOf: number | null })[],
  sets: readonly (readonly number[])[],
): Promise<(id: number) => number> {
  const there = await mapOf(items, breathe, (one) => [one.id, one]);
  const variants = await variantsOf(items, sets, breathe);
  const formats = await mapOf(variants, breathe, ({ id, of, suffix }) =>
    suffix === '' ? [id, of] : undefined,
  );
  return (id) => {
    const picture = there.get(id)?.sizeOf ?? id;
    const main = there.has(picture) ? picture : id;
    return formats.get(main) ?? main;
  };
}
