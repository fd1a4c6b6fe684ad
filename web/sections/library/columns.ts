import { useLocalStorage } from '@vueuse/core';
import { computed, onMounted, ref } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import {
  fieldFault,
  ownFault,
  TEXT_FIELD_KEYS,
  TEXT_FIELDS,
  type OwnField,
  type TextField,
  type Words,
} from '../../../core/describe/fields.ts';
import type { Sort } from '../../../core/find/sorts.ts';
import { api } from '../../api/client.ts';
import { useSite } from '../../stores/site.ts';
import { clock, count, moment, USE_WORDS, weight } from '../../parts/words.ts';

export interface Column {
  key: string;
  title: string;
  /** Pixels. */
  width: number;
  text: (item: ItemView) => string;
  sort?: Sort;
  /** How its cells are written in. */
  cell?: Cell;
  look?: 'number' | 'mono';
}

export interface Cell {
  /** What the record gets for a text: of own fields, only the one that is meant. */
  set: (text: string) => Partial<Words>;
  /** Why a text cannot stand there. */
  fault?: (text: string) => string | undefined;
}

/** 'moon, open night' -> its tags. */
const tagsOf = (text: string) =>
  text
    .split(/[,;]/)
    .map((tag) => tag.trim())
    .filter(Boolean);

function wordColumn(field: TextField, width: number): Column {
  return {
    key: field,
    title: TEXT_FIELDS[field].name,
    width,
    text: (item) => item.words[field],
    sort: field,
    cell: { set: (text) => ({ [field]: text.trim() }), fault: (text) => fieldFault(field, text.trim()) },
  };
}

function ownColumn(field: OwnField): Column {
  return {
    key: `own ${field.name}`,
    title: field.name,
    width: 140,
    text: (item) => item.words.own[field.name] ?? '',
    ...(field.kind === 'number' ? { look: 'number' as const } : {}),
    cell: {
      set: (text) => ({ own: { [field.name]: text.trim() } }),
      fault: (text) => ownFault(field, text.trim()),
    },
  };
}

/** Several cells of one record put together. */
export function together(sets: readonly Partial<Words>[]): Partial<Words> {
  const own = Object.assign({}, ...sets.map((one) => one.own ?? {})) as Words['own'];
  return Object.assign({}, ...sets, Object.keys(own).length > 0 ? { own } : {}) as Partial<Words>;
}

/** Every column of all sites, in the order in which they are offered. */
const COLUMNS: readonly Column[] = [
  { key: 'name', title: 'Name', width: 220, text: (item) => item.name, sort: 'name', look: 'mono' },
  { key: 'marks', title: 'Care', width: 84, text: () => '' },
  wordColumn('title', 200),
  wordColumn('alt', 300),
  wordColumn('caption', 240),
  {
    key: 'tags',
    title: 'Tags',
    width: 180,
    text: (item) => item.words.tags.join(', '),
    cell: { set: (text) => ({ tags: tagsOf(text) }) },
    sort: 'tags',
  },
  { key: 'folder', title: 'Folder', width: 180, text: (item) => item.folder, sort: 'path', look: 'mono' },
  { key: 'kind', title: 'Kind', width: 90, text: (item) => item.kind, sort: 'kind' },
  {
    key: 'pixels',
    title: 'Dimensions',
    width: 110,
    text: (item) => (item.width ? `${item.width} × ${item.height}` : ''),
    sort: 'width',
    look: 'number',
  },
  {
    key: 'sizes',
    title: 'Sizes',
    width: 70,
    text: (item) => (item.sizes ? String(item.sizes) : ''),
    look: 'number',
  },
  {
    key: 'bytes',
    title: 'File size',
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
  { key: 'by', title: 'Added by', width: 140, text: (item) => item.addedBy ?? '', sort: 'by' },
  { key: 'owner', title: 'Owner', width: 140, text: (item) => item.owner ?? '', sort: 'owner' },
  {
    key: 'changed',
    title: 'Changed',
    width: 150,
    text: (item) => (item.changedAt ? moment(item.changedAt) : ''),
    sort: 'changed',
  },
  ...TEXT_FIELD_KEYS.filter((field) => !['title', 'alt', 'caption'].includes(field)).map((field) =>
    wordColumn(field, TEXT_FIELDS[field].form === 'lines' ? 240 : 140),
  ),
];

const FIRST = ['name', 'marks', 'title', 'alt', 'tags', 'pixels', 'bytes', 'use'];

/** Which columns are shown, in which order, how wide; kept in this browser. The site's own fields are columns too. */
export function useColumns() {
  const site = useSite();
  const own = ref<OwnField[]>([]);
  onMounted(async () => (own.value = await api.ownFields()));
  const all = computed(() => [...COLUMNS, ...own.value.map(ownColumn)]);
  const chosen = useLocalStorage('iconomos.columns', [...FIRST]);
  const widths = useLocalStorage<Record<string, number>>('iconomos.column-widths', {});
  const shown = computed<Column[]>(() =>
    chosen.value.flatMap((key) => {
      const column = all.value.find((one) => one.key === key);
      if (!column) return [];
      const { cell, ...rest } = { ...column, width: widths.value[key] ?? column.width };
      // Who may not describe reads the table.
      return cell && site.may('describe') ? [{ ...rest, cell }] : [rest];
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
  return { all, shown, chosen, toggle, move, resize };
}
