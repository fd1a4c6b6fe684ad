import { attributeOf, openTag, toXml, withAttribute, xmlTags } from '../office/xml-tags.ts';
import type { SheetEdit } from './edits.ts';

type Look = Extract<SheetEdit, { do: 'style' }>['look'];

/** Ids of number formats that every workbook has (ECMA-376, 18.8.30). */
const BUILT_IN: Readonly<Record<string, number>> = {
  General: 0,
  '0': 1,
  '0.00': 2,
  '#,##0': 3,
  '#,##0.00': 4,
  '0%': 9,
  '0.00%': 10,
  'h:mm': 20,
  '@': 49,
};
/** The first that a workbook may give itself. */
const OWN_FORMATS = 164;

/** The styles of a workbook (ECMA-376, 18.8), to which variants of some are added; none that is there changes. */
export class StyleXml {
  private readonly made = new Map<string, number>();

  /** @param xml '' where the workbook has no styles */
  constructor(private xml: string) {}

  get canAdd(): boolean {
    return this.list('cellXfs') !== undefined && this.list('fonts') !== undefined;
  }

  /** The number of a style like another one, but for how it looks. */
  variant(of: number, look: Look): number {
    const key = `${of} ${JSON.stringify(look)}`;
    const there = this.made.get(key);
    if (there !== undefined) return there;
    let xf = this.items('cellXfs')[of] ?? this.items('cellXfs')[0] ?? '<xf/>';
    const cut = xf.indexOf('>') + 1;
    let [tag, inside] = [openTag(xf.slice(0, cut)), xf.slice(cut)];
    const p = this.prefix;
    if (inside === '') inside = `</${p}xf>`;
    if (look.pattern !== undefined) {
      tag = withAttribute(tag, 'numFmtId', String(this.formatId(look.pattern)));
      tag = withAttribute(tag, 'applyNumberFormat', '1');
    }
    if (look.bold !== undefined || look.italic !== undefined) {
      tag = withAttribute(tag, 'fontId', String(this.font(Number(attributeOf(tag, 'fontId') ?? 0), look)));
      tag = withAttribute(tag, 'applyFont', '1');
    }
    if (look.align !== undefined) {
      const alignment = new RegExp(`<${p}alignment[^>]*>`).exec(inside)?.[0];
      inside = alignment
        ? inside.replace(alignment, withAttribute(alignment, 'horizontal', look.align))
        : `<${p}alignment horizontal="${look.align}"/>${inside}`;
      tag = withAttribute(tag, 'applyAlignment', '1');
    }
    xf = tag + inside;
    const all = this.items('cellXfs');
    const same = all.indexOf(xf);
    const number = same >= 0 ? same : this.add('cellXfs', xf);
    this.made.set(key, number);
    return number;
  }

  private formatId(pattern: string): number {
    const own = BUILT_IN[pattern];
    if (own !== undefined) return own;
    const formats = this.items('numFmts');
    for (const one of formats)
      if (attributeOf(one, 'formatCode') === pattern) return Number(attributeOf(one, 'numFmtId'));
    const id = Math.max(OWN_FORMATS - 1, ...formats.map((one) => Number(attributeOf(one, 'numFmtId')))) + 1;
    const p = this.prefix;
    const format = `<${p}numFmt numFmtId="${id}" formatCode="${toXml(pattern).replaceAll('"', '&quot;')}"/>`;
    if (this.list('numFmts')) this.add('numFmts', format);
    else {
      // It comes first of all (ECMA-376, 18.8.39).
      const { from } = this.list('fonts')!;
      this.xml = `${this.xml.slice(0, from)}<${p}numFmts count="1">${format}</${p}numFmts>${this.xml.slice(from)}`;
    }
    return id;
  }

  private font(of: number, { bold, italic }: Look): number {
    const p = this.prefix;
    let font = this.items('fonts')[of] ?? `<${p}font/>`;
    if (font.endsWith('/>') && !font.includes('><')) font = `${openTag(font)}</${p}font>`;
    const within = font.slice(font.indexOf('>') + 1, font.lastIndexOf('</'));
    const tag = font.slice(0, font.indexOf('>') + 1);
    const had = (name: string) => {
      const one = new RegExp(`<${p}${name}(?:\\s[^>]*)?/>`).exec(within)?.[0];
      return one !== undefined && !['0', 'false'].includes(attributeOf(one, 'val') ?? '1');
    };
    const rest = within.replace(new RegExp(`<${p}[bi](?:\\s[^>]*)?/>`, 'g'), '');
    const now = `${tag}${(bold ?? had('b')) ? `<${p}b/>` : ''}${(italic ?? had('i')) ? `<${p}i/>` : ''}${rest}</${p}font>`;
    const same = this.items('fonts').indexOf(now);
    return same >= 0 ? same : this.add('fonts', now);
  }

  private get prefix(): string {
    return /<x:styleSheet[\s>]/.test(this.xml) ? 'x:' : '';
  }

  /** Where a list stands: its tag from `from`, what is in it from `inside` to `end`. */
  private list(name: string): { from: number; inside: number; end: number } | undefined {
    let open: { from: number; inside: number } | undefined;
    for (const { name: full, is, from, to } of xmlTags(this.xml)) {
      if (full !== this.prefix + name) continue;
      if (is === 'open') open = { from, inside: to };
      else if (is === 'close' && open) return { ...open, end: from };
    }
    return undefined;
  }

  private items(name: string): string[] {
    const list = this.list(name);
    if (!list) return [];
    const found: string[] = [];
    let depth = 0;
    let begin = 0;
    for (const { is, from, to } of xmlTags(this.xml, list.inside, list.end)) {
      if (is === 'open' && depth++ === 0) begin = from;
      else if (is === 'close' && --depth === 0) found.push(this.xml.slice(begin, to));
      else if (is === 'empty' && depth === 0) found.push(this.xml.slice(from, to));
    }
    return found;
  }

  /** @returns its number in the list */
  private add(name: string, item: string): number {
    const number = this.items(name).length;
    const { from, inside, end } = this.list(name)!;
    const tag = withAttribute(this.xml.slice(from, inside), 'count', String(number + 1));
    this.xml = this.xml.slice(0, from) + tag + this.xml.slice(inside, end) + item + this.xml.slice(end);
    return number;
  }

  /** Whether anything was added. */
  get changed(): boolean {
    return this.made.size > 0;
  }

  text(): string {
    return this.xml;
  }
}
