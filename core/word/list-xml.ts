import type { ListKind } from './read-word.ts';
import { tagOf, within } from './tree.ts';
import { treeOf, type WordParts } from './word-parts.ts';
import { attributeOf } from '../office/xml-tags.ts';

const MAIN = 'http://schemas.openxmlformats.org/wordprocessingml/2006/main';
const DEEPEST = 9;

/** The lists of a document (ECMA-376, part 1, 17.9); new ones come in where none fits. */
export class ListXml {
  private last: { kind: ListKind; id: string } | undefined;
  private readonly made = new Map<ListKind, string>();

  constructor(
    private xml: string,
    private readonly parts: Pick<WordParts, 'isOrdered' | 'lists'>,
  ) {}

  text(): string {
    return this.xml;
  }

  /** An item that stands in a list: those that come in after it join it. */
  seen({ kind }: { kind: ListKind }, id: string | undefined): void {
    if (id !== undefined) this.last = { kind, id };
  }

  /** The id of a list for an item. @param was the one that it stood in */
  idFor({ kind, depth }: { kind: ListKind; depth: number }, was: string | undefined): string {
    const fits = (id: string) => this.parts.isOrdered(id, depth) === (kind === 'orderedList');
    if (was !== undefined && was !== '0' && fits(was)) return was;
    if (this.last?.kind === kind && this.parts.lists.includes(this.last.id) && fits(this.last.id))
      return this.last.id;
    const there = this.made.get(kind) ?? (kind === 'bulletList' ? this.parts.lists.find(fits) : undefined);
    if (there !== undefined) return there;
    const id = this.add(kind);
    this.made.set(kind, id);
    return id;
  }

  private add(kind: ListKind): string {
    if (this.xml === '')
      this.xml = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n<w:numbering xmlns:w="${MAIN}"></w:numbering>`;
    const tree = treeOf(this.xml);
    const next = (element: string, attribute: string) =>
      Math.max(
        0,
        ...[...within(tree, element)].map((one) => Number(attributeOf(tagOf(this.xml, one), attribute)) || 0),
      ) + 1;
    const [abstract, id] = [next('w:abstractNum', 'w:abstractNumId'), next('w:num', 'w:numId')];
    const levels = Array.from({ length: DEEPEST }, (_, at) => {
      const [format, text] = kind === 'bulletList' ? ['bullet', '•'] : ['decimal', `%${at + 1}.`];
      return `<w:lvl w:ilvl="${at}"><w:start w:val="1"/><w:numFmt w:val="${format}"/><w:lvlText w:val="${text}"/><w:lvlJc w:val="left"/><w:pPr><w:ind w:left="${720 * (at + 1)}" w:hanging="360"/></w:pPr></w:lvl>`;
    });
    const list = `<w:abstractNum w:abstractNumId="${abstract}"><w:multiLevelType w:val="hybridMultilevel"/>${levels.join('')}</w:abstractNum>`;
    const number = `<w:num w:numId="${id}"><w:abstractNumId w:val="${abstract}"/></w:num>`;
    // All kinds stand before all lists.
    const [firstNumber] = within(tree, 'w:num');
    const end = this.xml.lastIndexOf('</w:numbering>');
    const before = firstNumber?.from ?? end;
    const [lastNumber] = [...within(tree, 'w:num')].slice(-1);
    const after = lastNumber?.to ?? end;
    this.xml =
      this.xml.slice(0, before) + list + this.xml.slice(before, after) + number + this.xml.slice(after);
    return String(id);
  }
}
