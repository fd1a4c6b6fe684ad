import { computed, onScopeDispose, ref, shallowRef, toRefs, watch, type Reactive } from 'vue';
import type { NamingTable } from '../../../api/naming.ts';
import { baseName, extensionOf, stemOf } from '../../../core/address/path.ts';
import { compose, countedIn, type NamingFacts, type Numbers } from '../../../core/naming/compose.ts';
import type { NewName } from '../../../core/naming/names.ts';
import type { NamePattern, Restart } from '../../../core/naming/pattern.ts';
import type { FromNamer, ToNamer } from './naming-worker.ts';

export const NAMING_ORDERS = ['given', 'name', 'taken', 'added', 'title'] as const;
export type NamingOrder = (typeof NAMING_ORDERS)[number];

/** What the person chose and wrote over; it outlives a table that is read anew. */
export class NamingChoices {
  order: NamingOrder = 'given';
  /** Size variants that were not asked for go along. */
  together = true;
  /** Names without extension that the person wrote, by item. */
  readonly typed = new Map<number, string>();
}

/**
 * New names by a pattern. Those in sight are composed at once; those of all, with what clashes, follow from a worker as
 * soon as it has them.
 */
export function useNaming(
  table: NamingTable,
  asked: number,
  pattern: NamePattern,
  choices: Reactive<NamingChoices>,
) {
  const { order, together } = toRefs(choices);
  const { typed } = choices;
  for (const { id, path } of table.items) if (typed.get(id) === stemOf(baseName(path))) typed.delete(id);
  const names = shallowRef<ReadonlyMap<number, NewName>>(new Map());
  const pending = ref(true);

  const facts = new Map<number, NamingFacts>(table.items.map((item) => [item.id, item]));
  const sent = new Map(table.items.map((item, index) => [item.id, index]));
  const variants = new Map(
    table.variants.filter((one) => one.id !== one.of).map((one) => [one.id, one] as const),
  );
  const rows = computed(() => {
    const items = together.value ? table.items : table.items.slice(0, asked);
    const text: Record<Exclude<NamingOrder, 'given'>, (item: NamingFacts) => string> = {
      name: (item) => item.path,
      taken: (item) => item.takenAt ?? '\uffff',
      added: (item) => item.addedAt,
      title: (item) => item.title.toLowerCase() || '\uffff',
    };
    const by = order.value === 'given' ? undefined : text[order.value];
    if (!by) return items.map((item) => item.id);
    return [...items]
      .sort(
        (a, b) => by(a).localeCompare(by(b), 'en', { numeric: true }) || sent.get(a.id)! - sent.get(b.id)!,
      )
      .map((item) => item.id);
  });

  const worker = new Worker(new URL('./naming-worker.ts', import.meta.url), { type: 'module' });
  const post = (message: ToNamer) => worker.postMessage(message);
  post({
    table: {
      items: table.items,
      taken: new Map(table.taken.map(({ folder, names: there }) => [folder, there])),
      variants: table.variants,
    },
  });
  let number = 0;
  /** The newest question waits while one is being answered, so that typing never queues up work. */
  let asking = false;
  let again = false;
  function ask() {
    pending.value = true;
    if (asking) {
      again = true;
      return;
    }
    asking = true;
    again = false;
    post({
      number: ++number,
      order: [...rows.value],
      pattern: JSON.parse(JSON.stringify(pattern)) as NamePattern,
      typed: new Map(typed),
      together: together.value,
    });
  }
  worker.onmessage = ({ data }: MessageEvent<FromNamer>) => {
    asking = false;
    if (again) {
      ask();
      return;
    }
    pending.value = false;
    names.value = new Map(data.names.map((one) => [one.id, one]));
  };
  watch([rows, pattern, typed, together], ask, { deep: true, immediate: true });
  onScopeDispose(() => worker.terminate());

  /** Which number each item has where counters start anew so, in the present order. */
  const places = computed(() => {
    const made = new Map<Restart, Map<number, number>>();
    return (restart: Restart) => {
      let numbers = made.get(restart);
      if (numbers) return numbers;
      numbers = new Map();
      const next = new Map<string, number>();
      for (const id of rows.value) {
        const variant = variants.get(id);
        if (variant && together.value && facts.has(variant.of)) continue;
        const group = countedIn(restart, facts.get(id)!, '');
        const at = next.get(group) ?? 0;
        next.set(group, at + 1);
        numbers.set(id, at);
      }
      made.set(restart, numbers);
      return numbers;
    };
  });
  const numbers: Numbers = {
    take: (index, one) => {
      const piece = pattern.pieces[index]!;
      if (piece.piece !== 'counter') return 0;
      return piece.start + piece.step * (places.value(piece.restart).get(one.id) ?? 0);
    },
  };

  /** The new name of an item as far as it is known now. */
  function nameOf(id: number): string {
    const known = names.value.get(id);
    if (!pending.value && known) return baseName(known.to);
    const one = facts.get(id)!;
    const variant = together.value ? variants.get(id) : undefined;
    if (variant && facts.has(variant.of)) {
      const main = nameOf(variant.of);
      return stemOf(main) + variant.suffix + extensionOf(one.path);
    }
    const stem = typed.get(id) ?? compose(pattern, one, numbers).stem;
    return stem === '' ? baseName(one.path) : stem + extensionOf(one.path);
  }

  /** Each piece's text for one item, to be shown in the composing line. */
  function pieceTexts(id: number): string[] {
    const one = facts.get(id);
    if (!one) return pattern.pieces.map(() => '');
    // What all the others take from the counters is known once the worker has answered.
    const counted = pending.value ? undefined : names.value.get(id)?.counted;
    const counters = pattern.pieces.filter(({ piece }) => piece === 'counter');
    return pattern.pieces.map((piece) => {
      const known = counted?.[counters.indexOf(piece)];
      if (piece.piece === 'counter' && counted && known === undefined) return '';
      return compose({ ...pattern, pieces: [piece], words: null }, one, {
        take: () => known ?? numbers.take(pattern.pieces.indexOf(piece), one, ''),
      }).stem;
    });
  }
  return { order, together, typed, names, pending, rows, facts, nameOf, pieceTexts };
}
