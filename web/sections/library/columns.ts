import { computed, ref, watch } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import type { Sort } from '../../../core/find/sorts.ts';
import { clock, count, moment, USE_WORDS, weight } from '../../parts/words.ts';

export interface Column {
  key: string;
  title: string;
  /** Pixels. */
  width: number;
  text: (item: ItemView) => string;
  sort?: Sort;
  /** The words that are written in its cells. */
  field?: 'title' | 'alt' | 'caption' | 'tags';
  look?: 'number' | 'mono';
}

/** Every column there is, in the order in which they are offered. */
export const COLUMNS: readonly Column[] = [
  { key: 'name', title: 'Name', width: 220, text: (item) => item.name, sort: 'name', look: 'mono' },
  { key: 'marks', title: 'Care', width: 84, text: () => '' },
  {
    key: 'title',
    title: 'Title',
    width: 200,
    text: (item) => item.words.title,
    sort: 'title',
    field: 'title',
  },
  { key: 'alt', title: 'Alt text', width: 300, text: (item) => item.words.alt, field: 'alt' },
  { key: 'caption', title: 'Caption', width: 240, text: (item) => item.words.caption, field: 'caption' },
  { key: 'tags', title: 'Tags', width: 180, text: (item) => item.words.tags.join(', '), field: 'tags' },
  { key: 'folder', title: 'Folder', width: 180, text: (item) => item.folder, sort: 'path', look: 'mono' },
  { key: 'kind', title: 'Kind', width: 90, text: (item) => item.kind, sort: 'kind' },
  {
    key: 'pixels',
    title: 'Pixels',
    width: 110,
    text: (item) => (item.width ? `${item.width} × ${item.height}` : ''),
    sort: 'width',
    look: 'number',
  },
  {
    key: 'bytes',
    title: 'Weight',
    width: 90,
    text: (item) => weight(item.bytes),
    sort: 'bytes',
    look: 'number',
  },
  {
    key: 'duration',
    title: 'Length',
    width: 80,
    text: (item) => (item.duration ? clock(item.duration) : ''),
    sort: 'duration',
    look: 'number',
  },
  {
    key: 'use',
    title: 'Use',
    width: 130,
    text: (item) => (item.placements ? count(item.placements, 'placement') : USE_WORDS[item.use]),
    sort: 'placements',
  },
  { key: 'added', title: 'Added', width: 150, text: (item) => moment(item.addedAt), sort: 'added' },
  { key: 'by', title: 'Added by', width: 140, text: (item) => item.addedBy ?? '' },
  { key: 'owner', title: 'In the care of', width: 140, text: (item) => item.owner ?? '' },
  {
    key: 'changed',
    title: 'Changed',
    width: 150,
    text: (item) => (item.changedAt ? moment(item.changedAt) : ''),
    sort: 'changed',
  },
  { key: 'licence', title: 'Licence', width: 130, text: (item) => item.words.licence },
  {
    key: 'licenceEnd',
    title: 'Licence ends',
    width: 110,
    text: (item) => item.words.licenceEnd,
    sort: 'licence-end',
  },
];

const KEPT = 'iconomos.table-columns';
const FIRST = ['name', 'marks', 'title', 'alt', 'tags', 'pixels', 'bytes', 'use'];

/** Which columns are shown, in which order, how wide; kept in this browser. */
export function useColumns() {
  const kept = JSON.parse(localStorage.getItem(KEPT) ?? '{}') as {
    chosen?: string[];
    widths?: Record<string, number>;
  };
  const chosen = ref(kept.chosen ?? FIRST);
  const widths = ref(kept.widths ?? {});
  watch(
    [chosen, widths],
    () => localStorage.setItem(KEPT, JSON.stringify({ chosen: chosen.value, widths: widths.value })),
    { deep: true },
  );
  const shown = computed(() =>
    chosen.value.flatMap((key) => {
      const column = COLUMNS.find((one) => one.key === key);
      return column ? [{ ...column, width: widths.value[key] ?? column.width }] : [];
    }),
  );
  function toggle(key: string) {
    chosen.value = chosen.value.includes(key)
      ? chosen.value.filter((one) => one !== key)
      : [...chosen.value, key];
  }
  /** Puts a column where another stands. */
  function move(key: string, to: string) {
    if (key === to || !chosen.value.includes(key)) return;
    const at = chosen.value.indexOf(to);
    const rest = chosen.value.filter((one) => one !== key);
    rest.splice(at, 0, key);
    chosen.value = rest;
  }
  function resize(key: string, width: number) {
    widths.value = { ...widths.value, [key]: Math.round(Math.min(900, Math.max(60, width))) };
  }
  return { shown, chosen, toggle, move, resize };
}
