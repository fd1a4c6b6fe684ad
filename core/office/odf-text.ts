import { childAt, childrenOf, readXml, textWithin, type OfficePackage, type XmlElement } from './package.ts';
import { element, escapeHtml, PaperImages } from './paper.ts';

/** CSS that a property of OpenDocument is, and the values that are taken of it (ISO/IEC 26300-1, 20). */
const LENGTH = /^-?[\d.]+(cm|mm|in|pt|pc|px|em|%)$/;
const COLOR = /^#[\da-f]{6}$/i;
const PROPERTIES: readonly [from: string, to: string, takes: RegExp][] = [
  ['fo:font-weight', 'font-weight', /^(bold|normal|[1-9]00)$/],
  ['fo:font-style', 'font-style', /^(italic|oblique|normal)$/],
  ['fo:font-size', 'font-size', LENGTH],
  ['fo:font-variant', 'font-variant', /^small-caps$/],
  ['fo:text-transform', 'text-transform', /^(uppercase|lowercase|capitalize|none)$/],
  ['fo:color', 'color', COLOR],
  ['fo:background-color', 'background-color', COLOR],
  ['fo:text-align', 'text-align', /^(start|end|left|right|center|justify)$/],
  ['fo:margin-left', 'margin-left', LENGTH],
  ['fo:margin-right', 'margin-right', LENGTH],
  ['fo:margin-top', 'margin-top', LENGTH],
  ['fo:margin-bottom', 'margin-bottom', LENGTH],
  ['fo:text-indent', 'text-indent', LENGTH],
];
const BORDER = /^[\d.]+(?:pt|cm|mm|in|px) (?:solid|double|dotted|dashed) #[\da-f]{6}$/i;

/** Lists whose items are numbered, by the style of the list and the level from 1. */
type Numbered = Map<string, Map<number, { numbered: boolean; from: number }>>;

/** Running text of OpenDocument as HTML. */
export class OdfText {
  private readonly styles = new Map<string, { css: string; parent: string | undefined }>();
  private readonly lists: Numbered = new Map();
  private readonly images: PaperImages;
  private readonly asides: string[] = [];

  /** @param roots elements that hold styles, the more general ones first */
  constructor(
    from: OfficePackage,
    roots: readonly (XmlElement | undefined)[],
    private readonly notes: Set<string>,
  ) {
    this.images = new PaperImages(from, notes);
    for (const style of roots.flatMap((root) => childrenOf(root))) {
      const {
        'style:name': name,
        'style:family': family,
        'style:parent-style-name': parent,
      } = style.attributes;
      if (name === undefined) continue;
      if (style.name === 'style:style')
        this.styles.set(`${family} ${name}`, { css: cssOf(style), parent: parent && `${family} ${parent}` });
      else if (style.name === 'text:list-style')
        this.lists.set(
          name,
          new Map(
            childrenOf(style).map((level) => [
              Number(level.attributes['text:level']),
              {
                numbered:
                  level.name === 'text:list-level-style-number' &&
                  level.attributes['style:num-format'] !== '',
                from: Number(level.attributes['text:start-value'] ?? 1),
              },
            ]),
          ),
        );
    }
  }

  /** Footnotes and endnotes of all that has been written; none is left. */
  notesBelow(): string {
    const all = this.asides.splice(0);
    return all.length === 0 ? '' : `<hr><ol class="asides">${all.join('')}</ol>`;
  }

  /** What is in an element. @param level of the list around it, 0: none */
  within(of: XmlElement, level = 0, list = ''): string {
    return of.children
      .map((one) => (typeof one === 'string' ? escapeHtml(one) : this.html(one, level, list)))
      .join('');
  }

  private html(of: XmlElement, level: number, list: string): string {
    const { attributes } = of;
    const look = (family: string, key = 'text:style-name') => this.cssFor(family, attributes[key]);
    switch (of.name) {
      case 'text:h': {
        const depth = Math.min(6, Math.max(1, Number(attributes['text:outline-level'] ?? 1)));
        return element(`h${depth}`, { style: look('paragraph') }, this.within(of));
      }
      case 'text:p':
        return element('p', { style: look('paragraph') }, this.within(of) || '<br>');
      case 'text:span':
        return element('span', { style: look('text') }, this.within(of));
      case 'text:a':
        // Where it leads is told, and not followed.
        return element('span', { class: 'link', title: attributes['xlink:href'] }, this.within(of));
      case 'text:s':
        return '\u00a0'.repeat(Math.min(1000, Number(attributes['text:c'] ?? 1)));
      case 'text:tab':
        return '<span class="tab">\t</span>';
      case 'text:line-break':
        return '<br>';
      case 'text:list': {
        const style = attributes['text:style-name'] ?? list;
        const { numbered = false, from = 1 } = this.lists.get(style)?.get(level + 1) ?? {};
        return element(
          numbered ? 'ol' : 'ul',
          { start: numbered && from !== 1 ? String(from) : undefined },
          this.within(of, level + 1, style),
        );
      }
      case 'text:list-item':
      case 'text:list-header':
        return element('li', {}, this.within(of, level, list));
      case 'text:note': {
        const mark = textWithin(childAt(of, 'text:note-citation') ?? of);
        const body = childAt(of, 'text:note-body');
        if (body) this.asides.push(`<li>${this.within(body)}</li>`);
        return element('sup', {}, escapeHtml(mark));
      }
      case 'table:table':
        return `<table>${this.within(of)}</table>`;
      case 'table:table-header-rows':
        return `<thead>${this.within(of)}</thead>`;
      case 'table:table-row':
        return `<tr>${this.within(of)}</tr>`;
      case 'table:table-cell':
        return element(
          'td',
          {
            colspan: attributes['table:number-columns-spanned'],
            rowspan: attributes['table:number-rows-spanned'],
            style: look('table-cell', 'table:style-name'),
          },
          this.within(of),
        );
      case 'draw:frame':
        return this.frame(of);
      case 'office:annotation':
        this.notes.add('Comments aren’t shown here.');
        return '';
      case 'text:tracked-changes':
        this.notes.add('It holds tracked changes. It is shown as if all of them were accepted.');
        return '';
      case 'text:change-start':
      case 'text:change-end':
      case 'table:table-column':
      case 'table:covered-table-cell':
      case 'text:sequence-decls':
      case 'office:forms':
      case 'office:annotation-end':
        return '';
      default:
        return this.within(of, level, list);
    }
  }

  private frame(of: XmlElement): string {
    const size = ['width', 'height']
      .map((side) => [side, of.attributes[`svg:${side}`] ?? ''] as const)
      .filter(([, value]) => LENGTH.test(value))
      .map(([side, value]) => `${side === 'height' ? 'max-height' : side}:${value}`)
      .join(';');
    const box = childAt(of, 'draw:text-box');
    if (box) return element('div', { class: 'box' }, this.within(box));
    const table = childAt(of, 'table:table');
    if (table) return this.html(table, 0, '');
    const words = ['svg:title', 'svg:desc'].map((name) => childAt(of, name)).find((one) => one !== undefined);
    if (childAt(of, 'draw:object'))
      this.notes.add('Charts and embedded objects are shown as images where the document has one of them.');
    const [image] = childrenOf(of, 'draw:image');
    const part = image?.attributes['xlink:href']?.replace(/^\.\//, '');
    return image ? this.images.html(part, words ? textWithin(words) : '', size) : '';
  }

  private cssFor(family: string, name: string | undefined): string {
    const css: string[] = [];
    const seen = new Set<string>();
    for (let at = name && `${family} ${name}`; at && !seen.has(at); at = this.styles.get(at)?.parent) {
      seen.add(at);
      const own = this.styles.get(at)?.css;
      if (own) css.unshift(own);
    }
    return css.join(';');
  }
}

function cssOf(style: XmlElement): string {
  const css: string[] = [];
  for (const kind of ['style:text-properties', 'style:paragraph-properties', 'style:table-cell-properties']) {
    const properties = childAt(style, kind)?.attributes;
    if (!properties) continue;
    for (const [from, to, takes] of PROPERTIES) {
      const value = properties[from];
      if (value !== undefined && takes.test(value)) css.push(`${to}:${value}`);
    }
    const lines = [
      lined(properties['style:text-underline-style']) ? 'underline' : '',
      lined(properties['style:text-line-through-style']) ? 'line-through' : '',
    ].filter(Boolean);
    if (lines.length > 0) css.push(`text-decoration:${lines.join(' ')}`);
    const raised = /^(super|sub)/.exec(properties['style:text-position'] ?? '')?.[1];
    if (raised) css.push(`vertical-align:${raised};font-size:smaller`);
    for (const side of ['', '-top', '-right', '-bottom', '-left']) {
      const border = properties[`fo:border${side}`];
      if (border !== undefined && BORDER.test(border)) css.push(`border${side}:${border}`);
    }
  }
  return css.join(';');
}
const lined = (style: string | undefined) => style !== undefined && style !== 'none';

/** The elements that hold styles of a document, the more general ones first. */
export function styleRoots(from: OfficePackage, content: XmlElement): (XmlElement | undefined)[] {
  const common = childAt(readXml(from.text('styles.xml')), 'office:document-styles');
  return [
    childAt(common, 'office:styles'),
    childAt(common, 'office:automatic-styles'),
    childAt(content, 'office:automatic-styles'),
  ];
}
