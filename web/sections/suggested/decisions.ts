import type { OneSuggestion, SuggestedTagsView } from '../../../api/suggested-tags.ts';

/** What becomes of a suggestion: it is taken, never offered again, or stays for another time. */
export type Decision = 'take' | 'refuse' | 'leave';
/** In which order a click goes through them. */
const NEXT: Record<Decision, Decision> = { take: 'refuse', refuse: 'leave', leave: 'take' };

export const keyOf = (tag: string, id: number) => `${id} ${tag}`;

/** Suggestions of one tag that are sure enough, and how many are not. */
export interface Offered {
  tag: string;
  known: boolean;
  of: OneSuggestion[];
  lessSure: number;
}

/**
 * What is offered at a threshold: groups with nothing sure enough fall out; tags that the site has come first, then those with most images.
 * @param threshold 0 to 1; the suggestions of each group come the surest first
 */
export function offeredAt(view: SuggestedTagsView, threshold: number): Offered[] {
  return view.groups
    .map(({ tag, known, of }) => {
      const sure = of.filter(({ confidence }) => confidence >= threshold);
      return { tag, known, of: sure, lessSure: of.length - sure.length };
    })
    .filter(({ of }) => of.length > 0)
    .sort((one, other) => Number(other.known) - Number(one.known) || other.of.length - one.of.length);
}

/** As long as nobody says otherwise, tags of the site are taken, and new ones wait for somebody who wants them. */
export const decisionOn = (
  decided: ReadonlyMap<string, Decision>,
  { tag, known }: Pick<Offered, 'tag' | 'known'>,
  id: number,
): Decision => decided.get(keyOf(tag, id)) ?? (known ? 'take' : 'leave');

export const nextDecision = (now: Decision): Decision => NEXT[now];

export interface Outcome {
  /** For each item or file: what it gets and what it is not offered again. */
  suggestions: { itemId: number; take: string[]; refuse: string[] }[];
  taken: number;
  /** Items that get a tag. */
  items: number;
  refused: number;
}

/** What comes of all decisions on what is offered. */
export function outcomeOf(offered: readonly Offered[], decided: ReadonlyMap<string, Decision>): Outcome {
  const by = new Map<number, Outcome['suggestions'][number]>();
  let [taken, refused] = [0, 0];
  for (const group of offered)
    for (const { id } of group.of) {
      const decision = decisionOn(decided, group, id);
      if (decision === 'leave') continue;
      const one = by.get(id) ?? { itemId: id, take: [], refuse: [] };
      by.set(id, one);
      one[decision].push(group.tag);
      if (decision === 'take') taken++;
      else refused++;
    }
  const suggestions = [...by.values()];
  return { suggestions, taken, refused, items: suggestions.filter(({ take }) => take.length > 0).length };
}
