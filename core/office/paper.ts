import type { OfficePackage } from './package.ts';

/** A document as HTML that runs nothing: only elements written here, with all of its text and all values escaped. */
export interface Paper {
  html: string;
  /** What of it isn't shown, each as a sentence. */
  notes: string[];
}

export const escapeHtml = (text: string): string =>
  text.replace(/[&<>"]/g, (sign) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[sign]!);

/** An element with what is in it, which is HTML already. Attributes without a value are left out. */
export function element(
  name: string,
  attributes: Readonly<Record<string, string | undefined>>,
  within: string,
): string {
  const said = Object.entries(attributes)
    .filter(([, value]) => value !== undefined && value !== '')
    .map(([key, value]) => ` ${key}="${escapeHtml(value!)}"`)
    .join('');
  return `<${name}${said}>${within}</${name}>`;
}

/** Kinds of images that browsers draw, by how their names end. */
const IMAGES: Readonly<Record<string, string>> = {
  png: 'image/png',
  jpg: 'image/jpeg',
  jpeg: 'image/jpeg',
  gif: 'image/gif',
  webp: 'image/webp',
  bmp: 'image/bmp',
  svg: 'image/svg+xml',
};
/** Bytes of images that are shown of one document. */
const MOST_IMAGES = 60_000_000;

/** The images of a document, within its HTML. */
export class PaperImages {
  private shown = 0;

  constructor(
    private readonly from: OfficePackage,
    private readonly notes: Set<string>,
  ) {}

  /** @param part its name in the package @param style CSS of the element */
  html(part: string | undefined, words: string, style: string): string {
    const type = IMAGES[(part ?? '').split('.').at(-1)!.toLowerCase()];
    if (part === undefined || !type || !this.from.has(part)) {
      this.notes.add('Some images are kept in a form that isn’t shown here, or outside of the document.');
      return '';
    }
    const bytes = this.from.bytes(part);
    this.shown += bytes.length;
    if (this.shown > MOST_IMAGES) {
      this.notes.add('Its images are too heavy to be shown all.');
      return '';
    }
    return `<img src="data:${type};base64,${base64(bytes)}" alt="${escapeHtml(words)}" style="${escapeHtml(style)}">`;
  }
}

function base64(bytes: Uint8Array): string {
  let text = '';
  for (let at = 0; at < bytes.length; at += 0x8000)
    text += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
  return btoa(text);
}
