import { defaultTreeAdapter, Parser, type DefaultTreeAdapterMap, type Token, type TreeAdapter } from 'parse5';
import { decodeHTML } from 'entities';
import { attributeAtoms, charAtoms, offsetsOf, rawFromText, textOf, bytesOf } from './atoms.ts';
import { cssReferences, styleAttributeReferences } from './css.ts';
import { jsonReferences } from './data.ts';
import { canNameFile } from './file-address.ts';
import type { Reference } from './model.ts';
import { QuickTokenizer } from './quick-tokenizer.ts';
import { decodeRaw, type Source } from './source.ts';
import { looksLikeMediaAddress, looksLikeSrcset, srcsetCandidates } from './srcset.ts';

type Found = Omit<Reference, 'line'>;

/** Attributes whose whole value is an address, by element; '*' holds on every element. */
const ADDRESS_ATTRIBUTES: Record<string, ReadonlySet<string>> = {
  '*': new Set(['src', 'poster', 'background', 'data-src', 'lowsrc', 'dynsrc', 'longdesc']),
  a: new Set(['href', 'xlink:href']),
  area: new Set(['href']),
  link: new Set(['href']),
  object: new Set(['data']),
  image: new Set(['href', 'xlink:href']),
  use: new Set(['href', 'xlink:href']),
  feimage: new Set(['href', 'xlink:href']),
  pattern: new Set(['href', 'xlink:href']),
  lineargradient: new Set(['href', 'xlink:href']),
  radialgradient: new Set(['href', 'xlink:href']),
  textpath: new Set(['href', 'xlink:href']),
  mpath: new Set(['href', 'xlink:href']),
  filter: new Set(['href', 'xlink:href']),
  mask: new Set(['href', 'xlink:href']),
  cursor: new Set(['href', 'xlink:href']),
  tref: new Set(['href', 'xlink:href']),
  'font-face-uri': new Set(['href', 'xlink:href']),
  'color-profile': new Set(['href', 'xlink:href']),
  script: new Set(['href', 'xlink:href']),
  form: new Set(['action']),
  button: new Set(['formaction']),
  input: new Set(['formaction']),
};

/** The commonest attributes, passed over before anything is asked of them. */
const NEVER_AN_ADDRESS = new Set([
  'class',
  'id',
  'alt',
  'title',
  'width',
  'height',
  'rel',
  'type',
  'lang',
  'charset',
  'loading',
  'name',
  'role',
  'target',
]);
/** Presentation attributes of SVG whose values may hold url() (SVG 2, appendix on properties; CSS Masking, Filter Effects). */
export const PAINT_ATTRIBUTES: ReadonlySet<string> = new Set([
  'fill',
  'stroke',
  'filter',
  'mask',
  'mask-image',
  'clip-path',
  'marker',
  'marker-start',
  'marker-mid',
  'marker-end',
  'cursor',
  'shape-inside',
  'shape-subtract',
]);
const SRCSET_ATTRIBUTES = new Set(['srcset', 'imagesrcset', 'data-srcset']);

/** What a self-closing tag of these would swallow in XML if it were read as HTML. */
const RAW_TEXT_ELEMENTS = new Set([
  'script',
  'style',
  'title',
  'textarea',
  'iframe',
  'noscript',
  'noframes',
  'xmp',
]);

export interface HtmlReading {
  title: string;
  references: Found[];
  canonical: string[];
}

/**
 * References in HTML, XHTML and SVG source, by the HTML standard's tokenizer. Every start tag counts, also one
 * that tree construction would drop (fragments without a root, includes), and also in template and noscript.
 * Comments, scripts and raw text (textarea, title) hold none.
 *
 * @param xml true for XHTML and SVG: `<script/>` is then a whole element
 * @param links false: what `a` and `area` lead to is left out where it can be no media file; most of a page's addresses
 * @param quick text is skipped (QuickTokenizer); the outcome is the same
 */
export function htmlReferences(source: Source, xml: boolean, links = true, quick = true): HtmlReading {
  const collector = new Collector(source, xml, links, quick);
  collector.tokenizer.write(source.bom ? source.raw.slice(source.bom) : source.raw, true);
  return collector.finish();
}

/** A tree that is not kept: the parser only needs to know each element's parent to switch states rightly. */
const forgetfulTree: TreeAdapter<DefaultTreeAdapterMap> = {
  ...defaultTreeAdapter,
  appendChild: (parent, node) => void (node.parentNode = parent),
  insertBefore: (parent, node) => void (node.parentNode = parent),
  detachNode: (node) => void (node.parentNode = null),
  insertText: () => {},
  insertTextBefore: () => {},
  getNodeSourceCodeLocation: () => undefined,
  setNodeSourceCodeLocation: () => {},
  updateNodeSourceCodeLocation: () => {},
};

class Collector extends Parser<DefaultTreeAdapterMap> {
  private readonly found: Found[] = [];
  private readonly canonical: string[] = [];
  private base: string | undefined;
  private title = '';
  private styleStart = -1;
  private dataStart = -1;
  private titleStart = -1;

  private readonly source: Source;
  private readonly xml: boolean;
  constructor(
    source: Source,
    xml: boolean,
    private readonly links: boolean,
    quick: boolean,
  ) {
    super({ sourceCodeLocationInfo: true, scriptingEnabled: false, treeAdapter: forgetfulTree });
    if (quick) this.tokenizer = new QuickTokenizer(this.options, this);
    this.source = source;
    this.xml = xml;
  }

  finish(): HtmlReading {
    if (this.styleStart >= 0) this.readStyle(this.source.raw.length);
    if (this.base !== undefined) for (const one of this.found) one.base = this.base;
    return { title: this.title, references: this.found, canonical: this.canonical };
  }

  override onStartTag(token: Token.TagToken): void {
    // The parser hands some tokens to itself again (a stray </p>): they come without a location.
    if (!token.location) return super.onStartTag(token);
    const at = this.source.bom;
    this.readAttributes(token);
    if (this.xml && token.selfClosing && RAW_TEXT_ELEMENTS.has(token.tagName)) return;
    if (!token.selfClosing) {
      if (token.tagName === 'style') this.styleStart = token.location.endOffset + at;
      if (token.tagName === 'script' && isDataScript(token)) this.dataStart = token.location.endOffset + at;
      if (token.tagName === 'title' && this.title === '') this.titleStart = token.location.endOffset + at;
    }
    token.location = null; // read already, and costly to carry into the tree
    super.onStartTag(token);
  }

  override onEndTag(token: Token.TagToken): void {
    if (!token.location) return super.onEndTag(token);
    const start = token.location.startOffset + this.source.bom;
    if (token.tagName === 'style' && this.styleStart >= 0) this.readStyle(start);
    if (token.tagName === 'script' && this.dataStart >= 0) {
      for (const { loose: _loose, ...one } of jsonReferences(
        this.source,
        this.dataStart,
        start,
        'script json',
      ))
        this.found.push(one);
      this.dataStart = -1;
    }
    if (token.tagName === 'title' && this.titleStart >= 0) {
      const text = decodeRaw(this.source.encoding, this.source.raw.slice(this.titleStart, start));
      this.title = decodeHTML(text).replace(/\s+/g, ' ').trim();
      this.titleStart = -1;
    }
    token.location = null;
    super.onEndTag(token);
  }

  override onCharacter(token: Token.CharacterToken): void {
    token.location = null;
    super.onCharacter(token);
  }

  override onWhitespaceCharacter(token: Token.CharacterToken): void {
    token.location = null;
    super.onWhitespaceCharacter(token);
  }

  private readStyle(end: number): void {
    this.found.push(...cssReferences(this.source, this.styleStart, end));
    this.styleStart = -1;
  }

  private readAttributes(token: Token.TagToken): void {
    const locations = token.location?.attrs;
    if (!locations) return;
    const tag = token.tagName;
    const value = (name: string) => token.attrs.find((attr) => attr.name === name)?.value;
    let alt: string | null | undefined;
    if (tag === 'img') {
      const location = locations['alt'];
      alt = location ? this.valueText(location) : null;
    }
    const before = this.found.length;
    for (const attr of token.attrs) {
      const location = locations[attr.name];
      if (NEVER_AN_ADDRESS.has(attr.name) || !location || attr.value === '') continue;
      const place = `${tag} ${attr.name}`;
      if (attr.name === 'style') {
        const span = this.valueSpan(location);
        this.found.push(...styleAttributeReferences(this.source, span.start, span.end));
      } else if (PAINT_ATTRIBUTES.has(attr.name)) {
        if (!/url\(/i.test(attr.value)) continue;
        const { start, end } = this.valueSpan(location);
        // What it names in its own file is no other one.
        const named = styleAttributeReferences(this.source, start, end);
        this.found.push(...named.filter((one) => !/^\s*#/.test(one.url)));
      } else if (attr.name === 'srcdoc' && tag === 'iframe') {
        const { start, end } = this.valueSpan(location);
        this.found.push(...embeddedHtml(this.source, start, end));
      } else if (SRCSET_ATTRIBUTES.has(attr.name)) {
        this.readSrcset(location, place);
      } else if (tag === 'base' && attr.name === 'href') {
        this.base ??= this.valueText(location);
      } else if (isAddressAttribute(tag, attr.name)) {
        if (!this.links && (tag === 'a' || tag === 'area') && !canNameFile(attr.value, false)) continue;
        const url = this.address(location, place, attr.name === 'src' ? alt : undefined);
        if (tag === 'img' && attr.name === 'src') {
          const wide = shownWidth(value('width'), value('style'));
          if (wide !== undefined) this.found.at(-1)!.wide = wide;
        }
        if (tag === 'link' && /\bcanonical\b/i.test(value('rel') ?? '')) this.canonical.push(url);
      } else if (tag === 'meta' && attr.name === 'content') {
        if (/^refresh$/i.test(value('http-equiv') ?? '')) this.readRefresh(location);
        else if (/^og:url$/i.test(value('property') ?? value('name') ?? '')) this.canonical.push(attr.value);
        else if (looksLikeMediaAddress(attr.value)) this.address(location, place);
      } else if (
        attr.name.startsWith('data-') ||
        (tag === 'param' && attr.name === 'value') ||
        attr.name === 'content'
      ) {
        if (looksLikeMediaAddress(attr.value)) this.address(location, place);
        else if (looksLikeSrcset(attr.value)) this.readSrcset(location, place);
      }
    }
    const added = this.found.slice(before);
    if (added.length > 1 && added.some((one) => one.writing === 'srcset'))
      for (const one of added) one.sizesOf = token.location!.startOffset + this.source.bom;
  }

  private address(location: Token.Location, place: string, alt?: string | null): string {
    const span = this.valueSpan(location);
    const url = this.valueText(location);
    const one: Found = { ...span, url, place, writing: 'attribute' };
    if (alt !== undefined) one.alt = alt;
    this.found.push(one);
    return url;
  }

  /** '0; url=there.html' (HTML standard, pragma directives). */
  private readRefresh(location: Token.Location): void {
    const span = this.valueSpan(location);
    const raw = this.source.raw.slice(span.start, span.end);
    const found = /^[\s\d.]*[;,]\s*(?:url\s*=\s*)?['"]?([^'"]+)/i.exec(raw);
    if (!found) return;
    const start = span.start + found[0].length - found[1]!.length;
    const end = span.start + found[0].length;
    const url = textOf(attributeAtoms(charAtoms(this.source, start, end)));
    this.found.push({ start, end, url, place: 'meta refresh', writing: 'attribute' });
  }

  private readSrcset(location: Token.Location, place: string): void {
    const span = this.valueSpan(location);
    const atoms = this.valueAtoms(location);
    const offsets = offsetsOf(atoms, span.end);
    for (const candidate of srcsetCandidates(textOf(atoms))) {
      const start = offsets[candidate.start]!;
      const end = offsets[candidate.end]!;
      this.found.push({ start, end, url: candidate.url, place, writing: 'srcset' });
    }
  }

  private valueText(location: Token.Location): string {
    const { start, end } = this.valueSpan(location);
    const raw = this.source.raw.slice(start, end);
    return /[&\u0080-\u00ff]/.test(raw) ? textOf(this.valueAtoms(location)) : raw;
  }

  private valueAtoms(location: Token.Location) {
    const { start, end } = this.valueSpan(location);
    return attributeAtoms(charAtoms(this.source, start, end));
  }

  /** Byte offsets of an attribute's value, without its quotes. */
  private valueSpan(location: Token.Location): { start: number; end: number } {
    const at = this.source.bom;
    const whole = this.source.raw.slice(location.startOffset + at, location.endOffset + at);
    const match = /^[^=]+=[\t\n\f\r ]*/.exec(whole);
    if (!match) return { start: location.endOffset + at, end: location.endOffset + at };
    const start = location.startOffset + at + match[0].length;
    const quote = this.source.raw[start];
    if (quote !== '"' && quote !== "'") return { start, end: location.endOffset + at };
    const close = this.source.raw.indexOf(quote, start + 1);
    return { start: start + 1, end: close < 0 ? location.endOffset + at : close };
  }
}

/** HTML written with character references (a srcdoc attribute, the text of a feed): spans are carried back to the source. */
export function embeddedHtml(source: Source, start: number, end: number): Found[] {
  const atoms = attributeAtoms(charAtoms(source, start, end));
  const raw = rawFromText(textOf(atoms));
  const offsets: number[] = [];
  for (const atom of atoms) {
    const length = rawFromText(atom.text).length;
    for (let i = 0; i < length; i++) offsets.push(atom.start);
  }
  offsets.push(end);
  const inner = htmlReferences({ raw, bytes: bytesOf(raw), encoding: 'utf-8', bom: 0 }, false);
  return inner.references.map((one) => ({
    ...one,
    start: offsets[one.start]!,
    end: offsets[one.end]!,
    writing: 'attribute' as const,
  }));
}

/** CSS pixels that an image takes by its own element: its style's width, else its attribute. */
function shownWidth(attribute: string | undefined, style: string | undefined): number | undefined {
  const said =
    /(?:^|[;\s])width\s*:\s*(\d+)px/i.exec(style ?? '')?.[1] ??
    /^(\d+)(?:\s*px)?$/.exec((attribute ?? '').trim())?.[1];
  const wide = Number(said ?? 0);
  return wide > 0 ? wide : undefined;
}

function isAddressAttribute(tag: string, name: string): boolean {
  return ADDRESS_ATTRIBUTES['*']!.has(name) || (ADDRESS_ATTRIBUTES[tag]?.has(name) ?? false);
}

/** Scripts that are data: JSON-LD, import maps, JSON for the page's own scripts. */
function isDataScript(token: Token.TagToken): boolean {
  const type = token.attrs.find((attr) => attr.name === 'type')?.value ?? '';
  return /^\s*(?:application\/(?:[\w.-]+\+)?json|importmap|speculationrules)\s*$/i.test(type);
}
