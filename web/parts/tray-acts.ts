import type { TrayAct } from '../stores/tray.ts';

export interface OfferedAct {
  act: TrayAct;
  words: string;
  /** The letter that starts it, from its own words where it is free. */
  key: string;
  losing?: boolean;
}

const ACTS: Record<TrayAct, OfferedAct> = {
  compare: { act: 'compare', words: 'Compare', key: '=' },
  tags: { act: 'tags', words: 'Tags …', key: 'T' },
  prepare: { act: 'prepare', words: 'Prepare images …', key: 'P' },
  words: { act: 'words', words: 'Edit fields …', key: 'W' },
  embed: { act: 'embed', words: 'Write metadata into files …', key: 'I' },
  sidecars: { act: 'sidecars', words: 'Write XMP sidecar files …', key: 'X' },
  names: { act: 'names', words: 'Rename …', key: 'N' },
  move: { act: 'move', words: 'Move …', key: 'M' },
  copy: { act: 'copy', words: 'Copy to a folder …', key: 'C' },
  duplicate: { act: 'duplicate', words: 'Duplicate …', key: 'D' },
  owner: { act: 'owner', words: 'Assign to …', key: 'G' },
  family: { act: 'family', words: 'Group as sizes of one image …', key: 'F' },
  addresses: { act: 'addresses', words: 'Copy addresses …', key: 'A' },
  download: { act: 'download', words: 'Download the file', key: 'O' },
  export: { act: 'export', words: 'Export', key: 'E' },
  restore: { act: 'restore', words: 'Restore …', key: 'R' },
  aside: { act: 'aside', words: 'Set aside …', key: 'S', losing: true },
};

/** More are no sizes of one image. */
const MOST_SIZES = 50;

/** What can be done with so many items, of which some are set aside: in sight, and behind one more step. */
export function offered(size: number, aside: number): { first: OfferedAct[]; more: OfferedAct[] } {
  const compare = size >= 2 && size <= 4 ? [ACTS.compare] : [];
  const download = size === 1 ? [ACTS.download] : [];
  if (size > 0 && aside === size)
    return { first: [ACTS.restore, ACTS.words, ACTS.tags, ...compare], more: [ACTS.owner, ...download] };
  const family = size >= 2 && size <= MOST_SIZES ? [ACTS.family] : [];
  return {
    first: [...compare, ACTS.tags, ACTS.words, ACTS.names, ACTS.move, ACTS.aside],
    more: [
      ACTS.prepare,
      ACTS.addresses,
      ACTS.copy,
      ACTS.duplicate,
      ...family,
      ACTS.owner,
      ACTS.embed,
      ACTS.sidecars,
      ACTS.export,
      ...download,
      ...(aside > 0 ? [ACTS.restore] : []),
    ],
  };
}

/** The act that a key starts, if it can be done now. */
export function actOfKey(key: string, size: number, aside: number): TrayAct | undefined {
  const { first, more } = offered(size, aside);
  return [...first, ...more].find((one) => one.key === key.toUpperCase())?.act;
}
