import type { Right } from '../../core/people/rights.ts';
import type { TrayAct } from '../stores/tray.ts';

export interface OfferedAct {
  act: TrayAct;
  words: string;
  /** The letter that starts it, from its own words where it is free. */
  key: string;
  losing?: boolean;
  /** Who may not do this is not offered it. */
  right: Right;
}

const ACTS: Record<TrayAct, OfferedAct> = {
  compare: { act: 'compare', words: 'Compare', key: '=', right: 'look' },
  tags: { act: 'tags', words: 'Tags …', key: 'T', right: 'describe' },
  suggest: { act: 'suggest', words: 'Suggest tags …', key: 'K', right: 'describe' },
  prepare: { act: 'prepare', words: 'Prepare images …', key: 'P', right: 'clean' },
  words: { act: 'words', words: 'Edit fields …', key: 'W', right: 'describe' },
  embed: { act: 'embed', words: 'Write metadata into files …', key: 'I', right: 'describe' },
  sidecars: { act: 'sidecars', words: 'Write XMP sidecar files …', key: 'X', right: 'describe' },
  names: { act: 'names', words: 'Rename …', key: 'N', right: 'organise' },
  move: { act: 'move', words: 'Move …', key: 'M', right: 'organise' },
  copy: { act: 'copy', words: 'Copy to a folder …', key: 'C', right: 'organise' },
  duplicate: { act: 'duplicate', words: 'Duplicate …', key: 'D', right: 'organise' },
  owner: { act: 'owner', words: 'Assign to …', key: 'G', right: 'describe' },
  family: { act: 'family', words: 'Group as sizes of one image …', key: 'F', right: 'organise' },
  addresses: { act: 'addresses', words: 'Copy addresses …', key: 'A', right: 'look' },
  download: { act: 'download', words: 'Download the file', key: 'O', right: 'download' },
  export: { act: 'export', words: 'Export', key: 'E', right: 'download' },
  publish: { act: 'publish', words: 'Publish …', key: 'U', right: 'publish' },
  withdraw: { act: 'withdraw', words: 'Return to drafts …', key: 'V', right: 'publish' },
  discard: { act: 'discard', words: 'Discard …', key: 'S', right: 'bring-in', losing: true },
  restore: { act: 'restore', words: 'Restore …', key: 'R', right: 'clean' },
  aside: { act: 'aside', words: 'Set aside …', key: 'S', right: 'clean', losing: true },
};

/** More are no sizes of one image. */
const MOST_SIZES = 50;

interface Offered {
  first: OfferedAct[];
  more: OfferedAct[];
}

/** How many items are acted on, and how many of them are not on the site. */
export interface Lot {
  size: number;
  aside: number;
  drafts: number;
}
/** One item, by where it is. */
export const lotOfOne = (state: string): Lot => ({
  size: 1,
  aside: Number(state === 'aside'),
  drafts: Number(state === 'draft'),
});

/** What a person can do with some items: in sight, and behind one more step. */
export function offered(lot: Lot, may: (right: Right) => boolean): Offered {
  const { first, more } = offeredToAll(lot);
  const allowed = (acts: OfferedAct[]) => acts.filter(({ right }) => may(right));
  return { first: allowed(first), more: allowed(more) };
}

/** Of drafts, their own people may change what else only editors may. */
const ofDrafts = (act: OfferedAct): OfferedAct => ({ ...act, right: 'bring-in' });

function offeredToAll({ size, aside, drafts }: Lot): Offered {
  const compare = size >= 2 && size <= 4 ? [ACTS.compare] : [];
  const download = size === 1 ? [ACTS.download] : [];
  if (size > 0 && aside === size)
    return { first: [ACTS.restore, ACTS.words, ACTS.tags, ...compare], more: [ACTS.owner, ...download] };
  if (size > 0 && drafts === size)
    return {
      first: [
        ACTS.publish,
        ...compare,
        ACTS.tags,
        ACTS.words,
        ofDrafts(ACTS.names),
        ofDrafts(ACTS.move),
        ACTS.discard,
      ],
      more: [ACTS.owner, ...download],
    };
  const family = size >= 2 && size <= MOST_SIZES ? [ACTS.family] : [];
  return {
    first: [...compare, ACTS.tags, ACTS.words, ACTS.names, ACTS.move, ACTS.aside],
    more: [
      ACTS.suggest,
      ACTS.prepare,
      ACTS.addresses,
      ACTS.copy,
      ACTS.duplicate,
      ...family,
      ACTS.owner,
      ACTS.embed,
      ACTS.sidecars,
      ACTS.export,
      ACTS.withdraw,
      ...download,
      ...(aside > 0 ? [ACTS.restore] : []),
    ],
  };
}

/** The act that a key starts, if it can be done now. */
export function actOfKey(key: string, lot: Lot, may: (right: Right) => boolean): TrayAct | undefined {
  const { first, more } = offered(lot, may);
  return [...first, ...more].find((one) => one.key === key.toUpperCase())?.act;
}
