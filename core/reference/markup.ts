import type { Kind } from '../address/kinds.ts';
import { baseName, encodePath, folderOf, type SitePath } from '../address/path.ts';

/** What is put on a page: an item with the words and sizes that belong to it there. */
export interface Placed {
  path: SitePath;
  kind: Kind;
  mime: string;
  width: number | null;
  height: number | null;
  /** What a link to it says; default: its title. */
  linkText?: string | undefined;
  words: { alt: string; decorative: boolean; title: string; caption: string };
  /** The same image in other widths, for srcset; with the item's own. */
  sizes?: readonly { path: SitePath; width: number }[];
  /** Where the crop is made by CSS: what must be seen of it, as CSS writes a position. */
  position?: string | undefined;
}

/** How it is put there. */
export interface Placing {
  /** A figure with its caption, or the bare element. */
  caption: boolean;
  /** Classes of the site's own, for alignment and spacing. */
  classes: string;
  /** How wide it is shown at most, in CSS pixels; null: as wide as there is room. Only used with `sizes`. */
  shownWidth: number | null;
}

/** How addresses are written on a page. */
export interface AddressStyle {
  /** Address of a file, percent-encoded. */
  of: (path: SitePath) => string;
}

/** Addresses from the root, or relative to the page as its other addresses are. */
export function addressStyle(
  page: SitePath,
  fromRoot: boolean,
  served: (path: SitePath) => SitePath,
): AddressStyle {
  if (fromRoot) return { of: (path) => `/${encodePath(served(path))}` };
  const from = folderOf(page).split('/').filter(Boolean);
  return {
    of(path) {
      const to = path.split('/');
      let shared = 0;
      while (shared < from.length && shared < to.length - 1 && from[shared] === to[shared]) shared++;
      const relative = '../'.repeat(from.length - shared) + encodePath(to.slice(shared).join('/'));
      return /^[^/]*:/.test(relative) ? `./${relative}` : relative;
    },
  };
}

export const escapeText = (text: string) =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;');
export const escapeValue = (text: string) => escapeText(text).replace(/"/g, '&quot;');
const attribute = (name: string, value: string | number | null | undefined) =>
  value === null || value === undefined ? '' : ` ${name}="${escapeValue(String(value))}"`;

/** The attributes that an `img` has from its item: address, sizes, alt text, width and height. */
export function imageAttributes(item: Placed, style: AddressStyle, shownWidth: number | null): string {
  const sizes = item.sizes && item.sizes.length > 1 ? item.sizes : undefined;
  return (
    attribute('src', style.of(item.path)) +
    (sizes ? sizeAttributes(sizes, style, shownWidth) : '') +
    // An empty alt text would say that it is decorative: where there are no words yet, none are written.
    attribute('alt', item.words.decorative ? '' : item.words.alt.trim() || null) +
    sizeAttributesOf(item, shownWidth)
  );
}

/** The size in which an image is shown, in CSS pixels: a file that is wider holds more for screens that show more. */
function sizeAttributesOf({ width, height }: Placed, shownWidth: number | null): string {
  const shown = width && height && shownWidth && shownWidth < width ? shownWidth : undefined;
  return (
    attribute('width', shown ?? width) +
    attribute('height', shown ? Math.max(1, Math.round((height! * shown) / width!)) : height)
  );
}

/**
 * What browsers choose a image's size by.
 * @param shownWidth CSS pixels in which it is shown at most; null: as wide as the window
 */
export function sizeAttributes(
  sizes: readonly { path: SitePath; width: number }[],
  style: AddressStyle,
  shownWidth: number | null,
): string {
  const srcset = sizes
    .toSorted((a, b) => a.width - b.width)
    .map(({ path, width }) => `${style.of(path)} ${width}w`)
    .join(', ');
  return (
    attribute('srcset', srcset) +
    attribute('sizes', shownWidth ? `(max-width: ${shownWidth}px) 100vw, ${shownWidth}px` : '100vw')
  );
}

/**
 * An item as HTML for a page: an image with its size, alt text and sizes to choose from; videos and sounds with controls;
 * anything else as a link whose text is its title, never its file name. One line each, to be indented by the caller.
 */
export function placedHtml(item: Placed, placing: Placing, style: AddressStyle): string[] {
  const { words } = item;
  const caption = placing.caption && words.caption.trim() !== '' ? words.caption.trim() : undefined;
  const own = caption === undefined ? attribute('class', placing.classes || null) : '';
  let element: string;
  if (item.kind === 'image') {
    const position = item.position ? attribute('style', `object-position: ${item.position}`) : '';
    element = `<img${own}${imageAttributes(item, style, placing.shownWidth)} loading="lazy"${position}>`;
  } else if (item.kind === 'video' || item.kind === 'audio') {
    const size =
      item.kind === 'video' ? attribute('width', item.width) + attribute('height', item.height) : '';
    const label = attribute('aria-label', words.title || words.alt || null);
    element = `<${item.kind}${own} src="${escapeValue(style.of(item.path))}"${size} controls preload="metadata"${label}></${item.kind}>`;
  } else {
    const link = `<a${attribute('href', style.of(item.path))}>${escapeText(linkWords(item))}</a>`;
    return [`<p${attribute('class', placing.classes || null)}>${link}</p>`];
  }
  if (caption === undefined) return [element];
  return [
    `<figure${attribute('class', placing.classes || null)}>`,
    `  ${element}`,
    `  <figcaption>${escapeText(caption)}</figcaption>`,
    '</figure>',
  ];
}

/** The same as Markdown; videos and sounds have no form of their own there, and are written as HTML. */
export function placedMarkdown(item: Placed, placing: Placing, style: AddressStyle): string[] {
  const plain = (text: string) =>
    text
      .replace(/[\\[\]*_`<>]/g, '\\$&')
      .replace(/\s+/g, ' ')
      .trim();
  const address = style.of(item.path).replace(/[()]/g, (one) => (one === '(' ? '%28' : '%29'));
  if (item.kind === 'video' || item.kind === 'audio') return placedHtml(item, placing, style);
  if (item.kind !== 'image') return [`[${plain(linkWords(item))}](${address})`];
  const image = `![${plain(item.words.decorative ? '' : item.words.alt)}](${address})`;
  const caption = placing.caption ? plain(item.words.caption) : '';
  return caption ? [image, '', `*${caption}*`] : [image];
}

/** What a link to an item says: its title, and what to expect. */
const linkWords = (item: Placed): string => item.linkText ?? titleOf(item);

/** What an item is called: its title, else its name made into words. */
export function titleOf(item: Pick<Placed, 'path' | 'words'>): string {
  const title = item.words.title.trim();
  if (title !== '') return title;
  const words = baseName(item.path)
    .replace(/\.[^.]*$/, '')
    .replace(/[-_.]+/g, ' ')
    .trim();
  return words.charAt(0).toUpperCase() + words.slice(1);
}

/** What a gallery is made from and how it looks; it stands on the gallery's own element, so that it can be made anew. */
export interface Gallery {
  /** A folder, a tag, or the items as they were gathered. */
  from: { folder: SitePath } | { tag: string } | { gathered: true };
  /** Longer side of its small images, in pixels. */
  side: number;
  /** Quality of the small images, 1 to 100. */
  quality: number;
  captions: boolean;
  classes: string;
}

export interface GalleryPicture extends Placed {
  /** The small image that stands on the page and leads to the large one. */
  small: { path: SitePath; width: number; height: number };
}

const GALLERY_MARK = 'data-gallery';

/** A gallery as plain HTML that needs no script: small images in their order, each a link to its large one. */
export function galleryHtml(
  gallery: Gallery,
  pictures: readonly GalleryPicture[],
  style: AddressStyle,
): string[] {
  const lines = [
    `<ul${attribute('class', `gallery ${gallery.classes}`.trim())}${attribute(GALLERY_MARK, galleryMark(gallery))}${attribute('style', `display: grid; grid-template-columns: repeat(auto-fill, minmax(min(${gallery.side}px, 100%), 1fr)); gap: 12px; padding: 0; list-style: none`)}>`,
  ];
  for (const picture of pictures) {
    const { words } = picture;
    // The image is all that its link says. Where the record says nothing, nothing is written: a file's name is no description.
    const alt = words.decorative ? '' : words.alt.trim() || words.title.trim() || null;
    const image = `<img${attribute('src', style.of(picture.small.path))}${attribute('alt', alt)}${attribute('width', String(picture.small.width))}${attribute('height', String(picture.small.height))} loading="lazy">`;
    const link = `<a${attribute('href', style.of(picture.path))}>${image}</a>`;
    const caption = gallery.captions ? words.caption.trim() || words.title.trim() : '';
    lines.push(
      caption
        ? `  <li><figure style="margin: 0">${link}<figcaption>${escapeText(caption)}</figcaption></figure></li>`
        : `  <li>${link}</li>`,
    );
  }
  return [...lines, '</ul>'];
}

function galleryMark({ from, side, quality, captions }: Gallery): string {
  const source =
    'folder' in from
      ? `folder=${encodePath(from.folder)}`
      : 'tag' in from
        ? `tag=${encodeURIComponent(from.tag)}`
        : 'gathered';
  return `${source} side=${side} quality=${quality} captions=${captions ? 'yes' : 'no'}`;
}

/** Where the images of a gallery come from; undefined: it is written in a way that says nothing. */
function sourceOf(parts: ReadonlyMap<string, string | undefined>): Gallery['from'] | undefined {
  try {
    const [folder, tag] = [parts.get('folder'), parts.get('tag')];
    if (folder !== undefined) return { folder: decodeURIComponent(folder) };
    return tag !== undefined ? { tag: decodeURIComponent(tag) } : { gathered: true };
  } catch {
    return undefined;
  }
}

/** Reads what galleryHtml writes on its element. Undefined: it is no gallery of ours. */
export function readGalleryMark(mark: string, classes: string): Gallery | undefined {
  const parts = new Map(mark.split(' ').map((part) => part.split('=', 2) as [string, string | undefined]));
  const [side, quality] = [Number(parts.get('side')), Number(parts.get('quality'))];
  if (!(side >= 40 && side <= 4000 && quality >= 1 && quality <= 100)) return undefined;
  const from = sourceOf(parts);
  return (
    from && {
      from,
      side,
      quality,
      captions: parts.get('captions') === 'yes',
      classes: classes.replace(/(?:^|\s)gallery(?=\s|$)/, '').trim(),
    }
  );
}
