import { unzipSync } from 'fflate';
import { SaxesParser } from 'saxes';

/** Why an office document can't be read, as a sentence for people. */
export class UnreadableOffice extends Error {}

/** Bytes that a package may unpack to, all its parts together, and each of them. */
export const MOST_UNPACKED = 400_000_000;
/** How much smaller than its content a part may be packed; what is packed tighter was made to fill the memory. */
const MOST_RATIO = 400;

/** The parts of an office document: OPC (ECMA-376, part 2) or OpenDocument (ISO/IEC 26300-3), unpacked when they are asked for. */
export interface OfficePackage {
  names: readonly string[];
  has(name: string): boolean;
  /** @throws UnreadableOffice when it is damaged */
  bytes(name: string): Uint8Array;
  /** The text of an XML part; '': there is none. */
  text(name: string): string;
}

const COMPOUND = [0xd0, 0xcf, 0x11, 0xe0];

/** @throws UnreadableOffice when it is no package, protected by a password, damaged, or unpacks to too much */
export function openPackage(packed: Uint8Array): OfficePackage {
  if (COMPOUND.every((byte, at) => packed[at] === byte))
    throw new UnreadableOffice(
      'It is protected by a password, or was saved in the old binary format. Download it to open it in its own program.',
    );
  const names: string[] = [];
  const damaged = new UnreadableOffice('It is damaged, or no office document at all.');
  let all = 0;
  try {
    unzipSync(packed, {
      filter: ({ name, originalSize, size }) => {
        all += originalSize;
        if (all > MOST_UNPACKED || (originalSize > 1_000_000 && originalSize > size * MOST_RATIO))
          throw new UnreadableOffice('It unpacks to far more than it weighs, so it isn’t opened here.');
        if (!name.endsWith('/')) names.push(name);
        return false;
      },
    });
  } catch (error) {
    throw error instanceof UnreadableOffice ? error : damaged;
  }
  if (names.length === 0) throw damaged;
  const there = new Set(names);
  const opened: OfficePackage = {
    names,
    has: (name) => there.has(name),
    bytes(name) {
      try {
        const bytes = unzipSync(packed, { filter: (file) => file.name === name })[name];
        if (bytes) return bytes;
      } catch {
        // Told below, as what is not there at all.
      }
      throw new UnreadableOffice(`Its part “${name}” is damaged or missing.`);
    },
    text: (name) => (there.has(name) ? decodeXml(opened.bytes(name)) : ''),
  };
  if (/<(?:\w+:)?encryption-data\b/.test(opened.text('META-INF/manifest.xml')))
    throw new UnreadableOffice('It is protected by a password. Download it to open it in its own program.');
  return opened;
}

/** XML is in UTF-8, or in UTF-16 with a byte order mark (XML 1.0, 4.3.3). */
function decodeXml(bytes: Uint8Array): string {
  const mark = bytes[0] === 0xff ? 'utf-16le' : bytes[0] === 0xfe ? 'utf-16be' : 'utf-8';
  return new TextDecoder(mark).decode(bytes);
}

/** An element of XML: its name with its prefix, as office programs write it. */
export interface XmlElement {
  name: string;
  attributes: Readonly<Record<string, string>>;
  children: (XmlElement | string)[];
}

/** How deep elements may lie in each other. */
const DEEPEST = 1000;

/** Reads XML as a tree. Entities of its own are not known, so none can grow. @throws UnreadableOffice */
export function readXml(text: string): XmlElement {
  const top: XmlElement = { name: '', attributes: {}, children: [] };
  const open = [top];
  walkXml(text, {
    open(name, attributes) {
      if (open.length > DEEPEST) throw new UnreadableOffice('Its parts lie too deep in each other.');
      const element: XmlElement = { name, attributes, children: [] };
      open.at(-1)!.children.push(element);
      open.push(element);
    },
    text: (words) => void open.at(-1)!.children.push(words),
    close: () => void open.pop(),
  });
  return top;
}

/** Goes through XML without keeping it. @throws UnreadableOffice */
export function walkXml(
  text: string,
  on: {
    open: (name: string, attributes: Readonly<Record<string, string>>) => void;
    text?: (words: string) => void;
    close?: (name: string) => void;
  },
): void {
  const parser = new SaxesParser();
  parser.on('error', () => {
    throw new UnreadableOffice('Its content is damaged.');
  });
  parser.on('opentag', ({ name, attributes }) => on.open(plain(name), attributes as Record<string, string>));
  if (on.text) parser.on('text', on.text);
  parser.on('closetag', ({ name }) => on.close?.(plain(name)));
  if (text !== '') parser.write(text).close();
}

/** Some programs write the elements of a workbook with a prefix, where most write none. */
const plain = (name: string) => (name.startsWith('x:') ? name.slice(2) : name);

/** The children of an element with a name. */
export const childrenOf = (of: XmlElement | undefined, name?: string): XmlElement[] =>
  (of?.children ?? []).filter(
    (one): one is XmlElement => typeof one !== 'string' && (name === undefined || one.name === name),
  );
/** The first element along a path of names. */
export const childAt = (of: XmlElement | undefined, ...path: string[]): XmlElement | undefined =>
  path.reduce<XmlElement | undefined>((at, name) => childrenOf(at, name)[0], of);
/** All the text within. */
export const textWithin = (of: XmlElement): string =>
  of.children.map((one) => (typeof one === 'string' ? one : textWithin(one))).join('');

/** What the relationships of a part lead to, by their ids: names of parts; what leads outside is left out (ECMA-376, part 2, 9). */
export function relationsOf(
  from: OfficePackage,
  part: string,
): Map<string, { type: string; target: string }> {
  const slash = part.lastIndexOf('/');
  const folder = part.slice(0, slash + 1);
  const found = new Map<string, { type: string; target: string }>();
  const relations = `${folder}_rels/${part.slice(slash + 1)}.rels`;
  for (const one of childrenOf(childAt(readXml(from.text(relations)), 'Relationships'))) {
    const { Id, Type, Target, TargetMode } = one.attributes;
    if (Id === undefined || Target === undefined || TargetMode === 'External') continue;
    found.set(Id, { type: (Type ?? '').split('/').at(-1)!, target: within(folder, Target) });
  }
  return found;
}
function within(folder: string, target: string): string {
  const steps: string[] = target.startsWith('/') ? [] : folder.split('/').slice(0, -1);
  for (const step of target.replace(/^\//, '').split('/')) {
    if (step === '..') steps.pop();
    else if (step !== '.') steps.push(step);
  }
  return steps.join('/');
}
