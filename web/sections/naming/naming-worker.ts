import type { NamingFacts } from '../../../core/naming/compose.ts';
import { newNames, type NewName } from '../../../core/naming/names.ts';
import type { NamePattern } from '../../../core/naming/pattern.ts';
import type { Variant } from '../../../core/naming/variants.ts';

/** Composes the names of all, away from the interface's own thread. */
export type ToNamer =
  | { table: { items: NamingFacts[]; taken: Map<string, string[]>; variants: Variant[] } }
  | { number: number; order: number[]; pattern: NamePattern; typed: Map<number, string>; together: boolean };
export interface FromNamer {
  number: number;
  names: NewName[];
}

let table: { items: NamingFacts[]; taken: Map<string, string[]>; variants: Variant[] };
let byId = new Map<number, NamingFacts>();

self.onmessage = ({ data }: MessageEvent<ToNamer>) => {
  if ('table' in data) {
    table = data.table;
    byId = new Map(table.items.map((item) => [item.id, item]));
    return;
  }
  const items = data.order.map((id) => byId.get(id)!);
  const left = new Set(byId.keys());
  for (const id of data.order) left.delete(id);
  // What is not renamed keeps its name, and nobody else may have it.
  const taken = new Map([...table.taken].map(([folder, names]) => [folder, [...names]]));
  for (const id of left) {
    const { path } = byId.get(id)!;
    const slash = path.lastIndexOf('/');
    taken.get(slash < 0 ? '' : path.slice(0, slash))?.push(path.slice(slash + 1));
  }
  const names = newNames(items, data.pattern, taken, data.together ? table.variants : [], data.typed);
  self.postMessage({ number: data.number, names } satisfies FromNamer);
};
