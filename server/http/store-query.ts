import type { ItemQuery } from '../../api/items.ts';
import { conditionsOf } from '../../core/find/query.ts';
import { mayDraft } from '../../core/people/rights.ts';
import type { Person } from '../db/people.ts';
import { Fault } from '../fault.ts';
import type { ItemQuery as StoreQuery } from '../db/item-query.ts';

/** Words that one search may ask for; conditions likewise. More would keep the reading threads from others. */
const MOST_WORDS = 20;
const MOST_CONDITIONS = 60;

/**
 * What a person asks the store for: of drafts, those that they may see.
 * @throws Fault for a search that asks for too much at once
 */
export function storeQuery(query: ItemQuery, person: Pick<Person, 'id' | 'role'>): StoreQuery {
  const { q, ...rest } = query;
  const drafts = query.state === 'draft' || query.state === 'any';
  const draftsOf = drafts && !mayDraft(person.role, false) ? { draftsOf: person.id } : {};
  // The same word twice, in whatever case, finds no less than once.
  const words = new Map(
    q
      .split(/\s+/)
      .filter((word) => word !== '')
      .map((word) => [word.toLowerCase(), word]),
  );
  if (words.size > MOST_WORDS)
    throw new Fault(
      'bad-request',
      `A search takes ${MOST_WORDS} words at most; this one has ${words.size}.`,
      'Search for fewer words.',
    );
  if ([...conditionsOf(rest.where)].length > MOST_CONDITIONS)
    throw new Fault(
      'bad-request',
      `A search can have ${MOST_CONDITIONS} filters at most.`,
      'Remove some filters.',
    );
  return { ...rest, ...draftsOf, words: [...words.values()] };
}
