/**
 * What an editor holds, as a WordprocessingML document. Blocks that are as they were stay as they are written; parts that nothing touches stay byte
 * for byte.
 */
import { strToU8, zipSync } from 'fflate';
import { KEPT_BLOCK, ORIGIN, sameRich, type RichNode } from '../document/rich.ts';
import { attributeOf, toXml } from '../office/xml-tags.ts';
import { NoSuchText } from './draft.ts';
import { ListXml } from './list-xml.ts';
import { EMU, type Letter } from './paragraph.ts';
import { readWord, type ListKind, type ListPlace, type ReadWord, type Source } from './read-word.ts';
import { childOf, sliceOf, tagOf, type Placed } from './tree.ts';
import { relationsPart, styleNamed } from './word-parts.ts';
import { runsOf, type Surroundings } from './write-paragraph.ts';

/** An image that comes into a document. */
export interface NewImage {
  bytes: Uint8Array;
  extension: 'png' | 'jpg' | 'gif';
  width: number;
  height: number;
}

/**
 * The bytes of a document with another text.
 * @param doc what an editor holds, made from `readWord(packed)`
 * @param images those that come in, by their `src`
 * @throws UnreadableOffice, NoSuchText
 */
export function editedWord(
  packed: Uint8Array,
  doc: RichNode,
  images: ReadonlyMap<string, NewImage> = new Map(),
): Uint8Array {
  const read = readWord(packed);
  if (sameRich(read.doc, doc)) return packed;
  const written = new Writer(read, images).write(doc);
  const bytes = zipSync(written, { mtime: '1980-01-01T00:00:00' });
  const again = readWord(bytes).doc;
  const other = differing(told(doc), told(again));
  if (other !== undefined)
    throw new NoSuchText(`The document can’t hold this as it looks here, near “${other}”.`);
  return bytes;
}

/** Without what only the editor has: keys of what is kept, sizes of images, and lists of several kinds in a row. */
function told(node: RichNode): RichNode {
  const attrs = { ...node.attrs };
  delete attrs['key'];
  if (node.type === 'image') delete attrs['src'];
  if (node.type === 'orderedList') delete attrs['start'];
  // A heading that leads nowhere else; empty lines stand in every cell.
  const content = node.content?.map(told);
  return { ...node, attrs, ...(content ? { content } : {}) };
}
function differing(one: RichNode, other: RichNode): string | undefined {
  const [a, b] = [one.content ?? [], other.content ?? []];
  const at = a.findIndex((node, index) => !b[index] || !sameRich(node, b[index]));
  if (at < 0 && a.length === b.length) return undefined;
  const said = (node: RichNode | undefined): string =>
    node?.text ?? (node?.content ?? []).map(said).join(' ');
  return said(a[at] ?? b[a.length])
    .slice(0, 60)
    .trim();
}

const NUMBERING = 'word/numbering.xml';
const W14_IDS = /\s(?:w14:paraId|w14:textId)="[^"]*"/g;
/** Properties that stand before others in a paragraph's (17.3.1.26). */
const BEFORE_LIST = [
  'w:pStyle',
  'w:keepNext',
  'w:keepLines',
  'w:pageBreakBefore',
  'w:framePr',
  'w:widowControl',
];
const RELATION = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
const LINE = 20 * 36;

type ListAt = Pick<ListPlace, 'kind' | 'depth'>;

class Writer {
  private readonly xml: string;
  private readonly used = new Set<number>();
  private readonly keptUsed = new Set<string>();
  private readonly keys = new Map<string, Letter>();
  private readonly relations: { id: string; type: string; target: string; outside: boolean }[] = [];
  private readonly media = new Map<string, { part: string; id: string; image: NewImage }>();
  private readonly lists: ListXml;
  private styles: string;
  private readonly around: Surroundings;

  constructor(
    private readonly read: ReadWord,
    private readonly images: ReadonlyMap<string, NewImage>,
  ) {
    const { from, xml } = read.parts;
    this.xml = xml;
    this.styles = from.text('word/styles.xml');
    this.lists = new ListXml(from.text(NUMBERING), read.parts);
    read.sources.forEach(({ paragraph }, origin) =>
      paragraph?.letters.forEach((letter, at) => {
        if (letter.kept) this.keys.set(`${origin}.${at}`, letter);
      }),
    );
    const style = styleNamed(this.styles, 'hyperlink');
    this.around = {
      link: (href) => this.linkTag(href),
      linkLook: style ? `<w:rStyle w:val="${style}"/>` : '<w:color w:val="0563C1"/><w:u w:val="single"/>',
      image: (attrs) => this.image(attrs),
      kept: (key) => this.kept(key),
    };
  }

  write(doc: RichNode): Record<string, Uint8Array> {
    const { parts, sources } = this.read;
    const body = childOf(childOf(parts.tree, 'w:document'), 'w:body')!;
    const inBody = new Map(sources.map(({ element }, origin) => [element, origin]));
    const written = this.blocks(doc.content ?? []);
    // What shows nothing between blocks stays before the block that followed it.
    let text = '';
    let at = body.inner.from;
    let next = 0;
    const order = written.map(({ origin }) => origin);
    for (const child of body.children) {
      const origin = inBody.get(child);
      if (origin === undefined) {
        // At the end: what has been written so far stands before it.
        const following = body.children.slice(body.children.indexOf(child) + 1);
        const rest = new Set(following.map((one) => inBody.get(one)));
        const till = order.findIndex((one, index) => index >= next && one !== undefined && rest.has(one));
        const stop = child.name === 'w:sectPr' || till < 0 ? written.length : till;
        for (; next < stop; next++) text += written[next]!.xml;
        text += sliceOf(this.xml, child);
      }
      at = child.to;
    }
    for (; next < written.length; next++) text += written[next]!.xml;
    text += this.xml.slice(at, body.inner.to);
    const main = this.xml.slice(0, body.inner.from) + text + this.xml.slice(body.inner.to);
    return this.packed(main);
  }

  private packed(main: string): Record<string, Uint8Array> {
    const { from, main: part } = this.read.parts;
    const all = this.unpacked();
    const put = (name: string, text: string) => {
      if (text !== from.text(name))
        all[name] = strToU8(text.replace(/^(<\?xml[^>]*encoding=["'])[^"']*/, '$1UTF-8'));
    };
    put(part, main);
    put('word/styles.xml', this.styles);
    const numbering = this.lists.text();
    if (numbering !== from.text(NUMBERING) && !from.has(NUMBERING))
      this.relation('numbering', 'numbering.xml', false);
    if (numbering !== '') put(NUMBERING, numbering);
    for (const { part: name, image } of this.media.values()) all[name] = image.bytes;
    if (this.relations.length > 0) {
      const name = relationsPart(part);
      const was =
        from.text(name) ||
        '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"></Relationships>';
      const added = this.relations.map(
        ({ id, type, target, outside }) =>
          `<Relationship Id="${id}" Type="${RELATION}/${type}" Target="${quoted(target)}"${outside ? ' TargetMode="External"' : ''}/>`,
      );
      put(name, intoRoot(was, 'Relationships', added.join('')));
    }
    put('[Content_Types].xml', this.types());
    return all;
  }
  private unpacked(): Record<string, Uint8Array> {
    const { from } = this.read.parts;
    return Object.fromEntries(from.names.map((name) => [name, from.bytes(name)]));
  }
  private types(): string {
    let types = this.read.parts.from.text('[Content_Types].xml');
    const add = (xml: string) => (types = intoRoot(types, 'Types', xml));
    for (const { image } of this.media.values())
      if (!new RegExp(`<Default\\b[^>]*Extension="${image.extension}"`, 'i').test(types))
        add(
          `<Default Extension="${image.extension}" ContentType="image/${image.extension === 'jpg' ? 'jpeg' : image.extension}"/>`,
        );
    if (this.lists.text() !== this.read.parts.from.text(NUMBERING) && !types.includes(`/${NUMBERING}`))
      add(
        `<Override PartName="/${NUMBERING}" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.numbering+xml"/>`,
      );
    return types;
  }

  /** Blocks as they are written, each with what it was made of. */
  private blocks(nodes: readonly RichNode[], list?: ListAt): { origin: number | undefined; xml: string }[] {
    return nodes.flatMap((node) => {
      if (node.type === 'bulletList' || node.type === 'orderedList')
        return this.list(node, (list?.depth ?? -1) + 1);
      return [this.block(node, undefined)];
    });
  }
  private list(node: RichNode, depth: number): { origin: number | undefined; xml: string }[] {
    const kind = node.type as ListKind;
    return (node.content ?? []).flatMap((item) =>
      (item.content ?? []).flatMap((one, at) =>
        one.type === 'bulletList' || one.type === 'orderedList'
          ? this.list(one, depth + 1)
          : [this.block(one, at === 0 ? { kind, depth } : undefined)],
      ),
    );
  }

  private block(node: RichNode, list: ListAt | undefined): { origin: number | undefined; xml: string } {
    const origin = this.originOf(node);
    const source = origin === undefined ? undefined : this.read.sources[origin];
    const first = origin !== undefined && !this.used.has(origin);
    if (origin !== undefined) this.used.add(origin);
    if (node.type === KEPT_BLOCK) {
      if (!source) throw new NoSuchText('A part that can’t be edited here was copied. Remove the copy.');
      if (!first) throw new NoSuchText('A part that can’t be edited here stands twice. Remove the copy.');
      return { origin, xml: sliceOf(this.xml, source.element) };
    }
    const kept = source && first && this.isAsItWas(node, source, list);
    if (kept) {
      this.keep(source.node);
      if (source.is?.list) this.lists.seen(source.is.list);
      return { origin, xml: sliceOf(this.xml, source.element) };
    }
    if (node.type === 'table')
      return { origin, xml: this.table(node, source?.element.name === 'w:tbl' ? source.element : undefined) };
    if (node.type !== 'paragraph' && node.type !== 'heading')
      throw new NoSuchText('It holds something that this document can’t. Undo the last change.');
    const own = source?.paragraph ? source : undefined;
    return { origin, xml: this.paragraph(node, own, first, list) };
  }
  /** Whether it says the same as when it was read, and stands in the same list. */
  private isAsItWas(node: RichNode, { node: was, is }: Source, list: ListAt | undefined): boolean {
    return sameList(is?.list, list) && sameRich(was, node);
  }
  /** What of a part that stays may not stand elsewhere as well. */
  private keep(node: RichNode): void {
    for (const one of node.content ?? []) {
      const origin = this.originOf(one);
      if (origin !== undefined) this.used.add(origin);
      if (typeof one.attrs?.['key'] === 'string') this.kept(one.attrs['key']);
      this.keep(one);
    }
  }
  private originOf(node: RichNode): number | undefined {
    const origin = node.attrs?.[ORIGIN];
    return typeof origin === 'number' && this.read.sources[origin] ? origin : undefined;
  }

  private paragraph(
    node: RichNode,
    source: Source | undefined,
    first: boolean,
    list: ListAt | undefined,
  ): string {
    const level = node.type === 'heading' ? Number(node.attrs?.['level'] ?? 1) : 0;
    const was = source?.is;
    const runs = runsOf(node, source?.paragraph, first, this.around);
    let tag = source ? openOf(tagOf(this.xml, source.element)) : '<w:p>';
    if (!first) tag = tag.replace(W14_IDS, '');
    const properties = source && childOf(source.element, 'w:pPr');
    let within = properties ? sliceOf(this.xml, properties.inner) : '';
    // The end of a section stands with the last paragraph that it was in.
    if (!first) within = within.replace(/<w:sectPr\b[\s\S]*?<\/w:sectPr>/, '');
    if (Math.min(was?.level ?? 0, 6) !== level) within = this.withStyle(within, level);
    if (!sameList(was?.list, list)) within = this.withList(within, list, was?.list);
    else if (was?.list) this.lists.seen(was.list);
    const own = properties ? openOf(tagOf(this.xml, properties)) : '<w:pPr>';
    return `${tag}${within === '' ? '' : `${own}${within}</w:pPr>`}${runs}</w:p>`;
  }

  /** The properties of a paragraph that becomes a heading, or text again. */
  private withStyle(within: string, level: number): string {
    const rest = within.replace(/<w:pStyle\b[^>]*\/>/, '').replace(/<w:outlineLvl\b[^>]*\/>/, '');
    return level === 0 ? rest : `<w:pStyle w:val="${this.headingStyle(level)}"/>${rest}`;
  }
  private headingStyle(level: number): string {
    const there = styleNamed(this.styles, `heading ${level}`);
    if (there !== undefined) return there;
    const id = `Heading${level}`;
    const size = [32, 28, 26, 24, 22, 22][level - 1]!;
    const style = `<w:style w:type="paragraph" w:styleId="${id}"><w:name w:val="heading ${level}"/><w:basedOn w:val="Normal"/><w:next w:val="Normal"/><w:qFormat/><w:pPr><w:keepNext/><w:spacing w:before="240" w:after="80"/><w:outlineLvl w:val="${level - 1}"/></w:pPr><w:rPr><w:b/><w:sz w:val="${size}"/></w:rPr></w:style>`;
    if (this.styles === '') throw new NoSuchText('The document has no styles, so it can’t hold headings.');
    this.styles = intoRoot(this.styles, 'w:styles', style);
    return id;
  }
  private withList(within: string, list: ListAt | undefined, was: ListPlace | undefined): string {
    const rest = within.replace(/<w:numPr>[\s\S]*?<\/w:numPr>|<w:numPr\/>/, '');
    if (!list) {
      // A style may bring a list along: 0 says that there is none.
      const style = /<w:pStyle\b[^>]*w:val="([^"]*)"/.exec(rest)?.[1];
      return this.read.parts.styles.get(style ?? '')?.list ? numbered(rest, '0', 0) : rest;
    }
    const place = this.lists.placeFor(list, was);
    this.lists.seen(place);
    return numbered(rest, place.id, place.level);
  }

  private table(node: RichNode, was: Placed | undefined): string {
    const rows = node.content ?? [];
    const columns = Math.max(...rows.map(({ content }) => content?.length ?? 0));
    const grid = was && childOf(was, 'w:tblGrid');
    const there = grid?.children.filter(({ name }) => name === 'w:gridCol') ?? [];
    let head = was ? this.xml.slice(was.from, rowsStart(was)) : NEW_TABLE;
    if (!grid || there.length !== columns) {
      const widths = Array.from(
        { length: columns },
        (_, at) =>
          Number(there[at] ? attributeOf(tagOf(this.xml, there[at]), 'w:w') : 0) ||
          Math.round(9000 / columns),
      );
      const now = `<w:tblGrid>${widths.map((width) => `<w:gridCol w:w="${width}"/>`).join('')}</w:tblGrid>`;
      head = grid ? head.replace(sliceOf(this.xml, grid), now) : `${head}${now}`;
    }
    let like: Placed | undefined = was && childOf(was, 'w:tr');
    const written = rows.map((row) => {
      const origin = this.originOf(row);
      const source = origin === undefined || this.used.has(origin) ? undefined : this.read.sources[origin]!;
      if (origin !== undefined) this.used.add(origin);
      like = source?.element ?? like;
      if (!source || !sameRich(source.node, row)) return this.row(row, like, source !== undefined);
      this.keep(source.node);
      return sliceOf(this.xml, source.element);
    });
    return `${head}${written.join('')}</w:tbl>`;
  }
  private row(node: RichNode, from: Placed | undefined, own: boolean): string {
    const tag = from ? openOf(tagOf(this.xml, from)) : '<w:tr>';
    const properties = (from?.children ?? [])
      .filter(({ name }) => name !== 'w:tc')
      .map((one) => sliceOf(this.xml, one));
    const isHead = node.content?.every(({ type }) => type === 'tableHeader') ?? false;
    // A row that comes in is no heading, unless it is made one.
    const said = own ? properties.join('') : properties.join('').replace(/<w:tblHeader\b[^>]*\/>/, '');
    const trPr =
      !from && isHead
        ? '<w:trPr><w:tblHeader/></w:trPr>'
        : own
          ? said
          : said.replace('<w:trPr></w:trPr>', '');
    const there = from?.children.filter(({ name }) => name === 'w:tc') ?? [];
    const cells = (node.content ?? []).map((cell, at) => {
      const origin = this.originOf(cell);
      const source = origin === undefined ? undefined : this.read.sources[origin]!.element;
      const look = source?.name === 'w:tc' ? source : (there[at] ?? there.at(-1));
      const tcPr = childOf(look, 'w:tcPr');
      const blocks = this.blocks(cell.content ?? []).map(({ xml }) => xml);
      return `<w:tc>${tcPr ? sliceOf(this.xml, tcPr) : ''}${blocks.join('') || '<w:p/>'}</w:tc>`;
    });
    return `${own ? tag : tag.replace(W14_IDS, '')}${trPr}${cells.join('')}</w:tr>`;
  }

  private linkTag(href: string): string {
    if (href.startsWith('#')) return `<w:hyperlink w:anchor="${quoted(href.slice(1))}">`;
    for (const [id, { outside, target }] of this.read.parts.relations)
      if (outside && target === href) return `<w:hyperlink r:id="${id}"${this.relationSpace()}>`;
    const known = this.relations.find(({ outside, target }) => outside && target === href);
    return `<w:hyperlink r:id="${known?.id ?? this.relation('hyperlink', href, true)}"${this.relationSpace()}>`;
  }
  /** The prefix of relationships, where the part has not named it. */
  private relationSpace(): string {
    const [root] = this.read.parts.tree.children.filter(({ name }) => name === 'w:document');
    return tagOf(this.xml, root!).includes('xmlns:r=') ? '' : ` xmlns:r="${RELATION}"`;
  }
  private relation(type: string, target: string, outside: boolean): string {
    const taken = new Set([...this.read.parts.relations.keys(), ...this.relations.map(({ id }) => id)]);
    let number = taken.size + 1;
    while (taken.has(`rId${number}`)) number++;
    this.relations.push({ id: `rId${number}`, type, target, outside });
    return `rId${number}`;
  }

  private kept(key: string): Letter | undefined {
    const letter = this.keys.get(key);
    const once = ['footnote', 'endnote', 'comment'].includes(letter?.kept?.what ?? '');
    if (once && this.keptUsed.has(key))
      throw new NoSuchText(`A ${letter!.kept!.what} stands twice. Remove the copy of its mark.`);
    this.keptUsed.add(key);
    return letter;
  }
  private image(attrs: Readonly<Record<string, unknown>>): string {
    const src = String(attrs['src'] ?? '');
    const image = this.images.get(src);
    if (!image) throw new NoSuchText('An image that was put in is not there any more. Put it in again.');
    let placed = this.media.get(src);
    if (!placed) {
      const names = new Set(this.read.parts.from.names);
      let number = this.media.size + 1;
      while (names.has(`word/media/added${number}.${image.extension}`)) number++;
      const name = `media/added${number}.${image.extension}`;
      placed = { part: `word/${name}`, id: this.relation('image', name, false), image };
      this.media.set(src, placed);
    }
    const widest = LINE * 0.8;
    const scale = Math.min(1, widest / image.width);
    const size = `cx="${Math.round(image.width * scale * EMU)}" cy="${Math.round(image.height * scale * EMU)}"`;
    const number = 1000 + this.media.size;
    return `<w:r><w:drawing><wp:inline xmlns:wp="http://schemas.openxmlformats.org/drawingml/2006/wordprocessingDrawing"><wp:extent ${size}/><wp:docPr id="${number}" name="Image ${number}" descr="${quoted(String(attrs['alt'] ?? ''))}"/><a:graphic xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main"><a:graphicData uri="http://schemas.openxmlformats.org/drawingml/2006/picture"><pic:pic xmlns:pic="http://schemas.openxmlformats.org/drawingml/2006/picture"><pic:nvPicPr><pic:cNvPr id="${number}" name="Image ${number}"/><pic:cNvPicPr/></pic:nvPicPr><pic:blipFill><a:blip xmlns:r="${RELATION}" r:embed="${placed.id}"/><a:stretch><a:fillRect/></a:stretch></pic:blipFill><pic:spPr><a:xfrm><a:off x="0" y="0"/><a:ext ${size}/></a:xfrm><a:prstGeom prst="rect"><a:avLst/></a:prstGeom></pic:spPr></pic:pic></a:graphicData></a:graphic></wp:inline></w:drawing></w:r>`;
  }
}

const NEW_TABLE =
  '<w:tbl><w:tblPr><w:tblW w:w="0" w:type="auto"/><w:tblBorders><w:top w:val="single" w:sz="4" w:color="auto"/><w:left w:val="single" w:sz="4" w:color="auto"/><w:bottom w:val="single" w:sz="4" w:color="auto"/><w:right w:val="single" w:sz="4" w:color="auto"/><w:insideH w:val="single" w:sz="4" w:color="auto"/><w:insideV w:val="single" w:sz="4" w:color="auto"/></w:tblBorders></w:tblPr>';

const rowsStart = (table: Placed) => childOf(table, 'w:tr')!.from;
const openOf = (tag: string) => (tag.endsWith('/>') ? `${tag.slice(0, -2).trimEnd()}>` : tag);
const quoted = (text: string) => toXml(text).replaceAll('"', '&quot;');
const sameList = (one: ListAt | undefined, other: ListAt | undefined) =>
  one === other ||
  (one !== undefined && other !== undefined && one.kind === other.kind && one.depth === other.depth);

/** The properties of a paragraph, in a list. */
function numbered(within: string, id: string, depth: number): string {
  const list = `<w:numPr><w:ilvl w:val="${depth}"/><w:numId w:val="${id}"/></w:numPr>`;
  let at = 0;
  for (const name of BEFORE_LIST) {
    const found = new RegExp(`<${name}\\b[^>]*?(?:/>|>[\\s\\S]*?</${name}>)`).exec(within);
    if (found) at = Math.max(at, found.index + found[0].length);
  }
  return within.slice(0, at) + list + within.slice(at);
}

/** A part with more at the end of its root. */
export function intoRoot(xml: string, root: string, added: string): string {
  const end = xml.lastIndexOf(`</${root}>`);
  if (end >= 0) return xml.slice(0, end) + added + xml.slice(end);
  return xml.replace(new RegExp(`<${root}\\b[^>]*/>`), (tag) => `${openOf(tag)}${added}</${root}>`);
}
