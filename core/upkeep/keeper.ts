import type { Words } from '../describe/fields.ts';
import { isWithin, type SitePath } from '../address/path.ts';
import type { ShownUse } from '../reference/survey.ts';

/** What decides which item of a group stays. */
export interface KeeperFacts {
  id: number;
  path: SitePath;
  bytes: number;
  width: number | null;
  height: number | null;
  use: ShownUse;
  placements: number;
  nameFaults: readonly string[];
  addedAt: string;
  words: Pick<Words, 'alt' | 'title' | 'caption' | 'description' | 'credit' | 'licence' | 'tags'>;
}

/** How the one that stays is chosen in many groups at once. */
export const KEEPER_RULES = {
  placed: 'the most used',
  largest: 'the largest',
  words: 'the best described',
  name: 'the best named',
  oldest: 'the oldest',
  folder: 'items in a folder',
} as const;
export type KeeperRule = keyof typeof KEEPER_RULES;

const pixels = (item: KeeperFacts) => (item.width ?? 0) * (item.height ?? 0);
/** How much a record says. */
function said({ words }: KeeperFacts): number {
  const texts = [words.alt, words.title, words.caption, words.description, words.credit, words.licence];
  return texts.filter((text) => text.trim() !== '').length + Math.min(2, words.tags.length);
}

type Measure = { of: (item: KeeperFacts) => number; reason: (item: KeeperFacts) => string };
const MEASURES: Record<Exclude<KeeperRule, 'folder'>, Measure> = {
  placed: {
    of: (item) => (item.use === 'placed' ? 1 + item.placements : item.use === 'mentioned' ? 0.5 : 0),
    reason: (item) =>
      item.use === 'placed'
        ? `used most (${item.placements === 1 ? 'once' : `${item.placements} times`})`
        : 'the only one mentioned',
  },
  largest: {
    of: (item) => pixels(item) || item.bytes,
    reason: (item) => (pixels(item) ? `the largest (${item.width} × ${item.height})` : 'the largest file'),
  },
  words: { of: said, reason: () => 'best described' },
  name: { of: (item) => -item.nameFaults.length, reason: () => 'the best named' },
  oldest: { of: (item) => -dateNumber(item.addedAt), reason: () => 'added first' },
};
const dateNumber = (iso: string) => Number(iso.replace(/\D/g, '').slice(0, 14));

/** Which is looked at first, second and so on, as long as those before do not decide. */
const ORDER: Record<Exclude<KeeperRule, 'folder'>, (keyof typeof MEASURES)[]> = {
  placed: ['placed', 'largest', 'words', 'name', 'oldest'],
  largest: ['largest', 'placed', 'words', 'name', 'oldest'],
  words: ['words', 'placed', 'largest', 'name', 'oldest'],
  name: ['name', 'placed', 'largest', 'words', 'oldest'],
  oldest: ['oldest', 'placed', 'largest', 'words', 'name'],
};

/**
 * The item of a group that stays, and why. Where nothing tells them apart, it is the first by path.
 * @param folder for the rule 'folder': the one of a group that lies in it stays; undefined is answered when none does, or several and nothing decides
 */
export function keeperOf(
  group: readonly KeeperFacts[],
  rule: KeeperRule,
  folder: SitePath = '',
): { id: number; reason: string } | undefined {
  let left = [...group].sort((a, b) => (a.path < b.path ? -1 : 1));
  if (rule === 'folder') {
    left = left.filter((item) => isWithin(folder, item.path));
    if (left.length === 0) return undefined;
    if (left.length === 1) return { id: left[0]!.id, reason: `in “${folder}”` };
  }
  for (const name of ORDER[rule === 'folder' ? 'placed' : rule]) {
    const { of, reason } = MEASURES[name];
    const most = Math.max(...left.map(of));
    const best = left.filter((item) => of(item) === most);
    if (best.length === 1) return { id: best[0]!.id, reason: reason(best[0]!) };
    left = best;
  }
  return { id: left[0]!.id, reason: 'first by name; otherwise identical' };
}

const RIGHTS: readonly (keyof Words)[] = [
  'creator',
  'credit',
  'copyright',
  'source',
  'licence',
  'licenceEnd',
];

/** What the record that stays lacks and the others have: texts from the best described one that has them, and all tags. */
export function wordsToTakeOver(keeper: Pick<Words, keyof Words>, others: readonly Words[]): Partial<Words> {
  const taken: Partial<Record<keyof Words, unknown>> = {};
  for (const field of Object.keys(keeper) as (keyof Words)[]) {
    if (field === 'tags' || field === 'own' || field === 'decorative' || RIGHTS.includes(field)) continue;
    // An empty alt text of a decorative image is meant.
    if (keeper[field] !== '' || (field === 'alt' && keeper.decorative)) continue;
    const best = others.map((one) => one[field] as string).filter((text) => text.trim() !== '');
    if (best.length > 0) taken[field] = best.sort((a, b) => b.length - a.length)[0];
  }
  // Rights belong together: half of one's and half of another's would say something wrong.
  if (RIGHTS.every((field) => keeper[field] === '')) {
    const count = (one: Words) => RIGHTS.filter((field) => one[field] !== '').length;
    const [best] = [...others].sort((a, b) => count(b) - count(a));
    for (const field of RIGHTS) if (best && best[field] !== '') taken[field] = best[field];
  }
  const own = { ...Object.assign({}, ...others.map((one) => one.own)), ...keeper.own } as Words['own'];
  for (const [name, value] of Object.entries(keeper.own))
    if (value === '') own[name] = others.map((one) => one.own[name]).find((text) => text) ?? '';
  if (JSON.stringify(own) !== JSON.stringify(keeper.own)) taken.own = own;
  const has = new Set(keeper.tags.map((tag) => tag.toLowerCase()));
  const tags = [
    ...new Map(others.flatMap((one) => one.tags).map((tag) => [tag.toLowerCase(), tag])).values(),
  ];
  const lacking = tags.filter((tag) => !has.has(tag.toLowerCase()));
  if (lacking.length > 0) taken.tags = [...keeper.tags, ...lacking];
  return taken as Partial<Words>;
}
