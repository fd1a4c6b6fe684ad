import {
  nameFault,
  baseName,
  clashKey,
  extensionOf,
  folderOf,
  joinPath,
  type SitePath,
} from '../address/path.ts';
import { isReserved, LONGEST_NAME } from '../address/name.ts';
import { compose, Counting, type NamingFacts } from './compose.ts';
import type { NamePattern } from './pattern.ts';
import type { Variant } from './variants.ts';

/** What the person should know of one new name. */
export type NameNote =
  /** Nothing was left of its pieces, or a piece lacked and the pattern says so: it keeps its name. */
  | 'kept'
  /** Cut at a word, as it was too long. */
  | 'cut'
  /** Another file has or gets that name, so a number stands behind it. */
  | 'numbered'
  /** It is a size of another item and is called after it. */
  | 'follows'
  /** The person wrote it. */
  | 'typed'
  /** What the person wrote cannot be: see `fault`. */
  | 'faulty';

export interface NewName {
  id: number;
  from: SitePath;
  to: SitePath;
  notes: NameNote[];
  /** Pieces that had nothing to give. */
  lacks: string[];
  /** The numbers of its counters, in their order. */
  counted: number[];
  /** The file that has or gets the name that it would have had. */
  takenBy?: SitePath;
  /** Why it cannot be applied as it is. */
  fault?: string;
}

/**
 * The new names of items by a pattern, in the given order (which is that of the counters). Nothing clashes in it: of two
 * that want one name, compared without case and in one Unicode form, the later gets a number. Names that stay as they
 * are, and those that the person typed, come first.
 *
 * @param taken names of other files in the folders concerned, by folder
 * @param typed names without extension that the person wrote over, by id
 */
export function newNames(
  items: readonly NamingFacts[],
  pattern: NamePattern,
  taken: ReadonlyMap<SitePath, readonly string[]>,
  variants: readonly Variant[] = [],
  typed: ReadonlyMap<number, string> = new Map(),
): NewName[] {
  const counting = new Counting(pattern);
  const following = new Map(variants.filter((one) => one.of !== one.id).map((one) => [one.id, one]));
  const ownSuffix = new Map(variants.filter((one) => one.of === one.id).map((one) => [one.id, one.suffix]));
  const there = new Set(items.map((item) => item.id));
  const wanted = new Map<number, { stem: string; notes: NameNote[]; lacks: string[]; counted: number[] }>();
  for (const facts of items) {
    if (typed.has(facts.id)) {
      wanted.set(facts.id, {
        stem: typed.get(facts.id)!.trim().normalize('NFC'),
        notes: ['typed'],
        lacks: [],
        counted: [],
      });
      continue;
    }
    const variant = following.get(facts.id);
    if (variant && there.has(variant.of)) continue;
    const { stem, lacks, counted } = compose(pattern, facts, counting);
    const name = fitting(stem, extensionOf(facts.path), pattern.separator);
    const notes: NameNote[] = [];
    if (name.stem === '') notes.push('kept');
    else if (name.cut) notes.push('cut');
    wanted.set(facts.id, { stem: name.stem, notes, lacks, counted });
  }

  const byId = new Map(items.map((item) => [item.id, item]));
  const used = new Map<string, SitePath>();
  for (const [folder, names] of taken)
    for (const name of names) used.set(clashKey(joinPath(folder, name)), joinPath(folder, name));
  const result = new Map<number, NewName>();
  /** The next number behind a name, so that thousands of one name need not try them all. */
  const numbered = new Map<string, number>();
  const settle = (
    facts: NamingFacts,
    stem: string,
    notes: NameNote[],
    lacks: string[],
    counted: number[],
  ) => {
    const extension = extensionOf(facts.path);
    const folder = folderOf(facts.path);
    const fixed = notes.includes('kept') || notes.includes('typed');
    let to = notes.includes('kept') ? facts.path : joinPath(folder, stem + extension);
    const one: NewName = { id: facts.id, from: facts.path, to, notes, lacks, counted };
    const other = used.get(clashKey(to));
    const fault = notes.includes('typed') ? typedFault(stem, stem + extension) : undefined;
    if (fault) Object.assign(one, { fault, notes: [...notes, 'faulty'], to: facts.path });
    else if (other !== undefined) {
      one.takenBy = other;
      if (fixed) {
        one.fault = `“${baseName(other)}” already exists. Choose another name.`;
        one.notes = [...notes, 'faulty'];
      } else {
        const key = clashKey(to);
        let number = numbered.get(key) ?? 2;
        for (; used.has(clashKey(to)); number++)
          to = joinPath(folder, `${stem}${pattern.separator || '-'}${number}${extension}`);
        numbered.set(key, number);
        one.to = to;
        one.notes = [...notes, 'numbered'];
      }
    }
    used.set(clashKey(one.to), one.from);
    result.set(facts.id, one);
  };
  const stays = ({ id, path }: NamingFacts) => {
    const want = wanted.get(id)!;
    return want.notes.includes('kept') || want.stem + extensionOf(path) === baseName(path);
  };
  const leading = items.filter((item) => wanted.has(item.id));
  const first = leading.filter(stays);
  const second = leading.filter((item) => !stays(item) && typed.has(item.id));
  const third = leading.filter((item) => !stays(item) && !typed.has(item.id));
  for (const item of [...first, ...second, ...third]) {
    const { stem, notes, lacks, counted } = wanted.get(item.id)!;
    // Where every size bears its suffix, the widest does too.
    const suffix = notes.length === 0 || notes.includes('cut') ? (ownSuffix.get(item.id) ?? '') : '';
    settle(item, stem + suffix, notes, lacks, counted);
  }
  for (const item of items) {
    if (wanted.has(item.id)) continue;
    const variant = following.get(item.id)!;
    const main = result.get(variant.of)!;
    const mainStem = baseName(main.to).slice(0, baseName(main.to).length - extensionOf(main.to).length);
    const suffix = ownSuffix.get(variant.of) ?? '';
    const stem = suffix !== '' && mainStem.endsWith(suffix) ? mainStem.slice(0, -suffix.length) : mainStem;
    if (main.to === main.from) settle(item, '', ['kept', 'follows'], [], []);
    else settle(byId.get(item.id)!, stem + variant.suffix, ['follows'], [], []);
  }
  return items.map((item) => result.get(item.id)!);
}

/** Room that is left for a number behind the name. */
const NUMBER_ROOM = 8;

/** A stem that is no longer than a name may be with its extension, cut at a word. */
function fitting(stem: string, extension: string, separator: string): { stem: string; cut: boolean } {
  const room = LONGEST_NAME - extension.length - NUMBER_ROOM;
  const bytes = (text: string) => new TextEncoder().encode(text).length;
  let short = Array.from(stem).slice(0, room).join('');
  while (bytes(short) > 200) short = Array.from(short).slice(0, -1).join('');
  const cut = short.length < stem.length;
  if (cut && separator !== '' && !stem.slice(short.length).startsWith(separator)) {
    const at = short.lastIndexOf(separator);
    if (at > room / 2) short = short.slice(0, at);
  }
  if (isReserved(short)) short += '-file';
  return { stem: short, cut };
}

function typedFault(stem: string, name: string): string | undefined {
  if (stem === '') return 'The name is empty. Write at least one letter.';
  if (stem.startsWith('.')) return 'A name can’t start with a dot, because servers hide such files.';
  if (isReserved(stem)) return `“${stem}” is reserved on some systems. Choose another name.`;
  if (name.length > LONGEST_NAME) return `The name is longer than ${LONGEST_NAME} characters. Shorten it.`;
  return nameFault(name);
}
