import { PLAIN_PATTERN, type NamePattern } from '../../core/naming/pattern.ts';
import type { Item } from '../db/item-rows.ts';
import type { Makers } from './random-ground.ts';

export const wide = (item: Item) => (item.width ?? 0) > 480;

/** Requests of the kinds that write images anew. */
export const IMAGE_MAKERS = {
  sizes: (at) => ({ itemId: at.chance.pick(at.which(wide)).id }),
  offer: (at) => ({ itemIds: at.which(wide).map((item) => item.id) }),
  treat: (at) => {
    const images = at.which(
      (item) => item.kind === 'image' && item.mime !== 'image/svg+xml' && (item.width ?? 0) > 1,
    );
    if (images.length === 0) return undefined;
    const itemIds = [...new Set([at.chance.pick(images).id, at.chance.pick(images).id])];
    const format = at.chance.pick(['webp', 'jpeg'] as const);
    const recipe = { version: 1 as const, size: { by: 'percent' as const, percent: 60 }, file: { format } };
    const shape = { ratio: [1, 1] as [number, number], how: 'whole' as const };
    return {
      itemIds,
      treatment: {
        name: 'Smaller',
        recipe,
        ...(at.chance.below(2) === 0 ? { shape } : {}),
        ...(at.chance.below(2) === 0 ? { pattern: counted(at.name) } : {}),
      },
      own:
        at.chance.below(3) === 0
          ? [{ itemId: itemIds[0]!, frame: { x: 0.1, y: 0, width: 0.6, height: 0.9 } }]
          : [],
      to: at.chance.pick([
        { as: 'these', sizes: at.chance.below(2) === 0 },
        { as: 'new', folder: at.folder },
      ] as const),
    };
  },
  prepare: (at) => {
    const images = at.which(
      (item) => item.kind === 'image' && item.mime !== 'image/svg+xml' && (item.width ?? 0) > 1,
    );
    if (images.length === 0) return undefined;
    const { id } = at.chance.pick(images);
    const recipe = at.chance.pick([
      { version: 1, orient: { turns: 1 } },
      { version: 1, tone: { blackAndWhite: true }, size: { by: 'percent', percent: 50 } },
      { version: 1, frame: { x: -0.1, y: 0, width: 1.2, height: 0.9 }, file: { format: 'webp' } },
    ] as const);
    return {
      itemId: id,
      recipe,
      to: at.chance.pick([
        { as: 'this', sizes: at.chance.pick(['all', 'none', 'sizes']) },
        { as: 'new', folder: at.folder, stem: at.name },
      ] as const),
    };
  },
  lighten: async (at) => {
    // How wide images are shown at most is found out in the background.
    await at.site.checks.refresh();
    const some = at.which((item) => wide(item) || item.kind === 'video').map((item) => item.id);
    return some.length === 0 ? undefined : { itemIds: some };
  },
  convert: async (at) => {
    await at.site.analyser.analyseAll();
    const some = at
      .which((item) => item.mime === 'image/png' && (item.width ?? 0) > 100)
      .map((item) => item.id);
    return some.length === 0 ? undefined : { itemIds: some };
  },
} satisfies Partial<Makers>;

/** Names of a set: a word and a number. */
function counted(word: string): NamePattern {
  return {
    ...PLAIN_PATTERN,
    pieces: [
      { piece: 'text', text: word },
      { piece: 'counter', start: 1, step: 1, width: 2, restart: 'never' },
    ],
  };
}
