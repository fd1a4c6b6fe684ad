import { join } from 'node:path';
import type { PlanRequest } from '../../api/plans.ts';
import type { Chance } from '../../core/test/chance.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { ALL_HERE } from '../db/item-query.ts';
import type { Item } from '../db/item-rows.ts';

/** What a plan is made up over. */
export interface Ground {
  site: OpenedSite;
  chance: Chance;
  /** Applies a change that another one rests on. @returns its entry's number; undefined: it cannot be made */
  first: (request: PlanRequest) => Promise<number | undefined>;
  /** Others take an item's file away in the site's folder, and bring it back once the plan is undone. */
  others: (item: Item, act: () => Promise<void>, back: () => Promise<void>) => Promise<void>;
}

/** What lies around to choose from. */
export class Around {
  readonly site: OpenedSite;
  readonly chance: Chance;
  readonly items: Item[];
  readonly first: Ground['first'];
  readonly others: Ground['others'];

  constructor(ground: Ground) {
    ({ site: this.site, chance: this.chance, first: this.first, others: this.others } = ground);
    this.items = this.site.finder.list({ ...ALL_HERE, sizes: true, limit: 1000 }).items;
  }

  get one(): Item {
    return this.chance.pick(this.items);
  }
  get folder(): string {
    return this.chance.pick(['img', 'img/deep', 'new/here', 'media/ü', '']);
  }
  get name(): string {
    return `n${this.chance.below(1000)}`;
  }
  /** A page of HTML. */
  get page(): string {
    return this.chance.pick(this.site.references.pagePaths().filter((path) => path.endsWith('.html')));
  }
  some(most = 6): number[] {
    return [...new Set(Array.from({ length: this.chance.whole(1, most) }, () => this.one.id))];
  }
  /** Those that fit. */
  which(fits: (item: Item) => boolean): Item[] {
    return this.items.filter(fits);
  }
  /** A placement on a page of HTML, of such items and in such places. */
  place(fits: (place: string, item: Item) => boolean) {
    const places = this.items.flatMap((item) =>
      this.site.references
        .placementsOf(item.path)
        .filter((one) => one.page.endsWith('.html') && fits(one.place, item))
        .map((one) => ({ ...one, item })),
    );
    return places.length > 0 ? this.chance.pick(places) : undefined;
  }
  file(path: string): string {
    return join(this.site.folder.root, path);
  }
}

export type Kind = PlanRequest['kind'];
type Asked<K extends Kind> = Omit<Extract<PlanRequest, { kind: K }>, 'kind'> | undefined;
/** A request of each kind over what is there. */
export type Makers = { [K in Kind]: (ground: Around) => Asked<K> | Promise<Asked<K>> };
