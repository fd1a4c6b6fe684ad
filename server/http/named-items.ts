import { Fault } from '../fault.ts';

/** What a route is asked for: its path's parts, its query, its body. */
interface Asked {
  params: unknown;
  query: unknown;
  body: unknown;
}

/** What is in a record of unknown form under a name. */
const of = (value: unknown, name: string): unknown =>
  typeof value === 'object' && value !== null ? (value as Record<string, unknown>)[name] : undefined;
const numbers = (values: readonly unknown[]): number[] =>
  values.filter((one): one is number => typeof one === 'number');
const listed = (value: unknown): unknown[] => (Array.isArray(value) ? value : []);

/** The items that a request cannot do without, by the names that ids of items have everywhere. @param path as it is declared: '/items/:id' */
export function namedItems(path: string, { params, body }: Omit<Asked, 'query'>): number[] {
  return numbers([
    ...(path.startsWith('/items/:id') ? [of(params, 'id'), of(params, 'other')] : []),
    ...listed(of(body, 'itemIds')),
    of(body, 'itemId'),
    ...['names', 'cells', 'suggestions'].flatMap((name) =>
      listed(of(body, name)).map((one) => of(one, 'itemId')),
    ),
  ]);
}

/**
 * What a request may see, whatever its route: items that are hidden from the person fall out of its lists.
 * @param hiddenOf which of some items are hidden
 * @throws Fault 'not-found' when one of them is what the request is about
 */
export function withoutHidden<All extends Asked>(
  path: string,
  asked: All,
  hiddenOf: (ids: readonly number[]) => ReadonlySet<number>,
): All {
  for (const id of hiddenOf(namedItems(path, asked)))
    throw new Fault('not-found', `There is no item ${id}.`, 'Go back to the Library and choose it there.');
  // At the door, ids are those of files that wait.
  if (path.startsWith('/arrivals')) return asked;
  const shown = <Part>(part: Part): Part => {
    const ids = numbers(listed(of(part, 'ids')));
    const hidden = ids.length > 0 ? hiddenOf(ids) : undefined;
    return hidden?.size ? { ...part, ids: ids.filter((id) => !hidden.has(id)) } : part;
  };
  return { ...asked, query: shown(asked.query), body: shown(asked.body) };
}
