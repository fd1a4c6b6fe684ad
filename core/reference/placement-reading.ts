import type { SitePath } from '../address/path.ts';
import { readGalleryMark, type Gallery } from './markup.ts';
import { elementsOf, isHtmlPage } from './page-edit.ts';
import { htmlPlacement, markdownPlacement, neighbourOf, type Unit } from './placement.ts';
import { placedWords } from './placed-words.ts';
import type { PlacedWords } from './placed-text.ts';
import type { Source } from './source.ts';

/** What a page says of one placement. */
export interface PlacementReading {
  words: PlacedWords | undefined;
  /** It can change places with what stands before it, or after it. */
  up: boolean;
  down: boolean;
  /** Only in HTML. */
  element:
    | {
        name: string;
        /** Bytes from the beginning of its tag to its end. */
        span: Unit | undefined;
        /** The text of its attributes, by name. */
        attributes: Record<string, string>;
        captioned: boolean;
        /** Classes of its figure, or else its own. */
        classes: string[];
        /** Addresses as they are written. */
        tracks: { src: string; language: string }[];
      }
    | undefined;
}

/** Reads one placement. @param start byte offset of its address */
export function placementReading(page: SitePath, source: Source, start: number): PlacementReading {
  const [words] = placedWords(page, source, [start]);
  if (!isHtmlPage(page)) {
    const found = markdownPlacement(source, start);
    return { words, up: found?.up !== undefined, down: found?.down !== undefined, element: undefined };
  }
  const elements = elementsOf(source);
  const found = htmlPlacement(elements, start);
  if (!found) return { words, up: false, down: false, element: undefined };
  const { element, unit, caption } = found;
  const has = (of: typeof element, name: string) => of.attributes.find((one) => one.name === name)?.text;
  const figure = caption && elements.find((one) => one.node === caption.node.parentNode);
  return {
    words,
    up: unit !== undefined && neighbourOf(elements, unit, 'up') !== undefined,
    down: unit !== undefined && neighbourOf(elements, unit, 'down') !== undefined,
    element: {
      name: element.name,
      span: element.whole && { start: element.tag.start, end: element.whole.end },
      attributes: Object.fromEntries(element.attributes.map((one) => [one.name, one.text])),
      captioned: caption !== undefined,
      classes: (has(figure ?? element, 'class') ?? '').split(/\s+/).filter(Boolean),
      tracks: elements
        .filter((one) => one.name === 'track' && one.node.parentNode === element.node)
        .map((one) => ({ src: has(one, 'src') ?? '', language: has(one, 'srclang') ?? '' })),
    },
  };
}

/** An element that is a gallery, and what it says of how it was made. */
export interface GalleryElement extends Unit {
  gallery: Gallery;
}

/** The galleries that were made on an HTML page. */
export function galleriesIn(source: Source): GalleryElement[] {
  if (!source.raw.includes('data-gallery')) return [];
  return elementsOf(source).flatMap(({ attributes, whole }) => {
    const mark = attributes.find((one) => one.name === 'data-gallery');
    const classes = attributes.find((one) => one.name === 'class')?.text ?? '';
    const gallery = mark && whole && readGalleryMark(mark.text, classes);
    return gallery ? [{ start: whole.start, end: whole.end, gallery }] : [];
  });
}
