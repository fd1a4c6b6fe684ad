import type { ListKind, ListPlace } from './read-word.ts';
import { tagOf, within } from './tree.ts';
import { treeOf, type WordParts } from './word-parts.ts';
import { attributeOf } from '../office/xml-tags.ts';

const MAIN = 'http://schemas.openxmlformats.org/wordprocessingml/2006/main';
const DEEPEST = 9;

/** The lists of a document (ECMA-376, part 1, 17.9); new ones come in where none fits. */
export class ListXml {
  private last: ListPlace | undefined;
  private readonly made = new Map<ListKind, string>();

  constructor(
    private xml: string,
    private readonly parts: Pick<WordParts, 'isOrdered' | 'lists'>,
  ) {}

  text(): string {
    return this.xml;
  }

  /** An item that stands in a list: those that come in after it join it. */
  seen(place: ListPlace): void {
    this.last = place;
  }

  /** The list and the level for an item. @param was where it stood */
  placeFor(at: Pick<ListPlace, 'kind' | 'depth'>, was: ListPlace | undefined): ListPlace {
    const { last } = this;
    const like = last ?? was;
    const level = Math.min(DEEPEST - 1, Math.max(0, at.depth + (like ? like.level - like.depth : 0)));
    const fits = (id: string) => this.parts.isOrdered(id, level) === (at.kind === 'orderedList');
    const known = [was?.id, last?.kind === at.kind ? last.id : undefined, this.made.get(at.kind)];
    const there = known.find(
      (id) =>
        id !== undefined && (id === this.made.get(at.kind) || (this.parts.lists.includes(id) && fits(id))),
    );
    // Numbers begin anew in a list of their own; bullets are the same everywhere.
    const id =
      there ?? (at.kind === 'bulletList' ? this.parts.lists.find(fits) : undefined) ?? this.add(at.kind);
    return { ...at, id, level };
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
