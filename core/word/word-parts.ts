import { openPackage, UnreadableOffice, type OfficePackage } from '../office/package.ts';
import { attributeOf, fromXml } from '../office/xml-tags.ts';
import { childOf, placedTree, sliceOf, tagOf, within, type Placed } from './tree.ts';

/** A WordprocessingML document (ECMA-376, part 1) with what its text refers to. */
export interface WordParts {
  from: OfficePackage;
  /** Name and text of the part that holds the text. */
  main: string;
  xml: string;
  tree: Placed;
  /** Styles of paragraphs by their ids: the level of a heading, and the numbering that they bring along. */
  styles: ReadonlyMap<string, { level: number; list: ListPlace | undefined }>;
  /** Whether a list is numbered, by its id and its level. */
  isOrdered(id: string, level: number): boolean;
  /** Ids of lists in their order. */
  lists: readonly string[];
  /** What relationships lead to, by their ids: addresses, or names of parts. */
  relations: ReadonlyMap<string, Relation>;
}
export interface Relation {
  type: string;
  target: string;
  outside: boolean;
}
export interface ListPlace {
  id: string;
  level: number;
}

/** Characters of its text that can be edited. */
const MOST_XML = 6_000_000;
const FOLDER = 'word/';

/** @throws UnreadableOffice */
export function openWord(packed: Uint8Array): WordParts {
  const from = openPackage(packed);
  const main = mainOf(from);
  const xml = from.text(main);
  if (xml.length > MOST_XML)
    throw new UnreadableOffice('Its text is too long to be edited here. Edit it in its own program.');
  const tree = treeOf(xml);
  if (!childOf(childOf(tree, 'w:document'), 'w:body'))
    throw new UnreadableOffice(
      'It was written in a way that can’t be edited here. Edit it in its own program.',
    );
  const { isOrdered, lists } = listsOf(from.text(`${FOLDER}numbering.xml`));
  return {
    from,
    main,
    xml,
    tree,
    styles: stylesOf(from.text(`${FOLDER}styles.xml`)),
    isOrdered,
    lists,
    relations: relationsIn(from.text(relationsPart(main))),
  };
}

/** @throws UnreadableOffice */
export function treeOf(xml: string): Placed {
  try {
    return placedTree(xml);
  } catch (error) {
    if (error instanceof RangeError) throw new UnreadableOffice('Its content is damaged.');
    throw error;
  }
}

/** The part with the relationships of a part (ECMA-376, part 2, 9.3). */
export const relationsPart = (part: string): string => {
  const slash = part.lastIndexOf('/');
  return `${part.slice(0, slash + 1)}_rels/${part.slice(slash + 1)}.rels`;
};

function mainOf(from: OfficePackage): string {
  const [found] = [...relationsIn(from.text('_rels/.rels')).values()].filter(
    ({ type }) => type === 'officeDocument',
  );
  const main = found?.target.replace(/^\//, '') ?? '';
  if (!main.startsWith(FOLDER) || main.slice(FOLDER.length).includes('/') || !from.has(main))
    throw new UnreadableOffice('It holds no text that can be edited here.');
  return main;
}

function relationsIn(xml: string): Map<string, Relation> {
  const found = new Map<string, Relation>();
  for (const one of within(treeOf(xml), 'Relationship')) {
    const tag = tagOf(xml, one);
    found.set(attributeOf(tag, 'Id') ?? '', {
      type: (attributeOf(tag, 'Type') ?? '').split('/').at(-1)!,
      target: attributeOf(tag, 'Target') ?? '',
      outside: attributeOf(tag, 'TargetMode') === 'External',
    });
  }
  return found;
}

/** An element's `w:val`; undefined: there is no such element. */
export const valueOf = (xml: string, of: Placed | undefined): string | undefined =>
  of && (attributeOf(tagOf(xml, of), 'w:val') ?? '');

/** The list that the properties of a paragraph put it in (17.9.18); undefined: they don't say; id '0': in none. */
export function listIn(xml: string, properties: Placed | undefined): ListPlace | undefined {
  const numbering = childOf(properties, 'w:numPr');
  const id = valueOf(xml, childOf(numbering, 'w:numId'));
  if (id === undefined) return undefined;
  return { id, level: Number(valueOf(xml, childOf(numbering, 'w:ilvl')) ?? 0) || 0 };
}

function stylesOf(xml: string): WordParts['styles'] {
  const found = new Map<string, { level: number; list: ListPlace | undefined; based: string | undefined }>();
  for (const one of within(treeOf(xml), 'w:style')) {
    const properties = childOf(one, 'w:pPr');
    const name = valueOf(xml, childOf(one, 'w:name')) ?? '';
    const outline = valueOf(xml, childOf(properties, 'w:outlineLvl'));
    const named = /^heading ([1-9])$/i.exec(name)?.[1];
    const level = named ? Number(named) : outline === undefined ? 0 : Number(outline) + 1;
    found.set(attributeOf(tagOf(xml, one), 'w:styleId') ?? '', {
      level: /^title$/i.test(name) ? 1 : level > 9 ? 0 : level,
      list: listIn(xml, properties),
      based: valueOf(xml, childOf(one, 'w:basedOn')),
    });
  }
  const whole = (id: string, depth = 0): { level: number; list: ListPlace | undefined } => {
    const own = found.get(id);
    if (!own || depth > 20) return { level: 0, list: undefined };
    const below = own.based === undefined ? undefined : whole(own.based, depth + 1);
    return { level: own.level || (below?.level ?? 0), list: own.list ?? below?.list };
  };
  return new Map([...found.keys()].map((id) => [id, whole(id)]));
}

/** The id of the style with a name; undefined: the document has none. @param xml its styles */
export function styleNamed(xml: string, name: string): string | undefined {
  for (const one of within(treeOf(xml), 'w:style'))
    if (valueOf(xml, childOf(one, 'w:name'))?.toLowerCase() === name)
      return attributeOf(tagOf(xml, one), 'w:styleId');
  return undefined;
}

function listsOf(xml: string): Pick<WordParts, 'isOrdered' | 'lists'> {
  const tree = treeOf(xml);
  const abstract = new Map<string, Map<number, boolean>>();
  const levels = (of: Placed) => {
    const found = new Map<number, boolean>();
    for (const one of within(of, 'w:lvl')) {
      const format = valueOf(xml, childOf(one, 'w:numFmt')) ?? 'decimal';
      found.set(Number(attributeOf(tagOf(xml, one), 'w:ilvl')), format !== 'bullet' && format !== 'none');
    }
    return found;
  };
  for (const one of within(tree, 'w:abstractNum'))
    abstract.set(attributeOf(tagOf(xml, one), 'w:abstractNumId') ?? '', levels(one));
  const numbers = new Map<string, (level: number) => boolean>();
  for (const one of within(tree, 'w:num')) {
    const [own, of] = [levels(one), abstract.get(valueOf(xml, childOf(one, 'w:abstractNumId')) ?? '')];
    numbers.set(
      attributeOf(tagOf(xml, one), 'w:numId') ?? '',
      (level) => own.get(level) ?? of?.get(level) ?? true,
    );
  }
  return { isOrdered: (id, level) => numbers.get(id)?.(level) ?? true, lists: [...numbers.keys()] };
}

/** The text of an element that holds nothing else. */
export const textIn = (xml: string, of: Placed): string => fromXml(sliceOf(xml, of.inner));
