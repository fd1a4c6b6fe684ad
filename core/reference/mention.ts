import { decodeHTML } from 'entities';
import { baseName, type SitePath } from '../address/path.ts';

/** An occurrence of a file's name in text. Offsets and line are those of the text that was searched. */
export interface Mention {
  path: SitePath;
  /** Line from 1. */
  line: number;
}

interface Node {
  next: Map<number, Node>;
  /** The folded name that ends here (read backwards). */
  name?: string;
}

/**
 * The names to look for. Names are held backwards in a tree and looked up from each place where one of their
 * extensions stands, so a text is read once however many names there are.
 */
export class NameIndex {
  private readonly root: Node = { next: new Map() };
  private readonly byName = new Map<string, SitePath[]>();
  private readonly endings: RegExp | undefined;
  /** Some name holds what ends an address, so that it could go on behind one. */
  private readonly crosses: boolean = false;

  /** @param paths the items whose names are looked for */
  constructor(paths: Iterable<SitePath>) {
    const extensions = new Set<string>();
    for (const path of paths) {
      const name = fold(baseName(path));
      const list = this.byName.get(name);
      if (list) {
        list.push(path);
        continue;
      }
      this.byName.set(name, [path]);
      if (DELIMITER.test(name)) this.crosses = true;
      const dot = name.lastIndexOf('.');
      if (dot < 0) continue;
      extensions.add(name.slice(dot + 1));
      let node = this.root;
      for (let at = name.length - 1; at >= 0; at--) {
        const code = name.charCodeAt(at);
        let next = node.next.get(code);
        if (!next) node.next.set(code, (next = { next: new Map() }));
        node = next;
      }
      node.name = name;
    }
    if (extensions.size > 0) {
      const sorted = [...extensions].sort((a, b) => b.length - a.length || (a < b ? -1 : 1));
      this.endings = new RegExp(
        `\\.(?:${sorted.map(escape).join('|')})(?![\\w@~-]|\\.[\\p{L}\\p{N}])`,
        'giu',
      );
    }
  }

  /** True when some item has this name, also in other case or Unicode form. */
  hasName(name: string): boolean {
    return this.byName.has(fold(name));
  }

  /** False when no name can lie in a stretch of text or reach beyond its last character, which is not its own. */
  mayTouch(text: string): boolean {
    if (!this.endings || this.crosses) return this.crosses;
    if (/[%&\\]/.test(text)) return true;
    this.endings.lastIndex = 0;
    return this.endings.test(text) || !DELIMITER.test(text.at(-1) ?? '"');
  }

  /**
   * Every mention of a known name in a text: as written, and as it reads once percent sequences, character
   * references and string escapes are decoded. One answer for each item and line.
   */
  search(text: string): Mention[] {
    if (!this.endings) return [];
    const mentions = new Map<string, Mention>();
    this.searchOne(text, mentions);
    const decoded = decodeAll(text);
    if (decoded !== text) this.searchOne(decoded, mentions);
    return [...mentions.values()];
  }

  private searchOne(original: string, mentions: Map<string, Mention>): void {
    const text = original.normalize('NFC');
    const endings = this.endings!;
    endings.lastIndex = 0;
    let line = 1;
    let counted = 0;
    for (let match = endings.exec(text); match; match = endings.exec(text)) {
      const end = match.index + match[0].length;
      // An extension that is the start of a longer one ('.tar' of '.tar.gz') must not hide what follows it.
      endings.lastIndex = match.index + 1;
      if (joinsName(text, end)) continue;
      for (const { name, start } of this.namesEndingAt(text, end)) {
        for (; counted < start; counted++) if (text.charCodeAt(counted) === 10) line++;
        for (const path of this.meant(name, text, start, end)) {
          const key = `${line} ${path}`;
          if (!mentions.has(key)) mentions.set(key, { path, line });
        }
      }
    }
  }

  /** Known names that end at an offset and start where a name can start; the shortest first. */
  private namesEndingAt(text: string, end: number): { name: string; start: number }[] {
    const found: { name: string; start: number }[] = [];
    let node: Node | undefined = this.root;
    for (let at = end - 1; at >= 0 && node; at--) {
      node = node.next.get(foldCode(text, at));
      if (node?.name !== undefined && startsName(text, at)) found.push({ name: node.name, start: at });
    }
    // The longest first, so that line counting only moves forward.
    return found.reverse();
  }

  /**
   * Which items of that name a mention means. A bare name means every item so named; a name with some path before
   * it those whose path ends so, and all of that name if none does. Exact case wins over other case.
   */
  private meant(name: string, text: string, start: number, end: number): SitePath[] {
    const all = this.byName.get(name)!;
    const written = text.slice(start, end);
    const sameCase = all.filter((path) => baseName(path).normalize('NFC') === written);
    const candidates = sameCase.length > 0 ? sameCase : all;
    if (candidates.length === 1) return candidates;
    const folders = pathBefore(text, start);
    if (folders === '') return candidates;
    const ending = `/${folders}/${written}`;
    const matching = candidates.filter((path) => `/${path.normalize('NFC')}`.endsWith(ending));
    return matching.length > 0 ? matching : candidates;
  }
}

/** What stands behind an address in markup. */
const DELIMITER = /["'<>)\]\n]/;

function fold(name: string): string {
  return name.normalize('NFC').toLowerCase();
}

function foldCode(text: string, at: number): number {
  const code = text.charCodeAt(at);
  if (code >= 65 && code <= 90) return code + 32;
  if (code < 128) return code;
  const lower = text[at]!.toLowerCase();
  return lower.length === 1 ? lower.charCodeAt(0) : code;
}

function escape(text: string): string {
  return text.replace(/[\\^$.*+?()[\]{}|]/g, '\\$&');
}

const NAME_CHARACTER = /[\p{L}\p{N}\p{M}_\-.@~%+]/u;
/** Scripts written without spaces: a name in other letters ends where they begin. */
const UNSPACED = /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Hangul}\p{Script=Thai}]/u;

function startsName(text: string, start: number): boolean {
  if (start === 0) return true;
  const before = text[start - 1]!;
  if (!NAME_CHARACTER.test(before)) return true;
  return UNSPACED.test(before) && !UNSPACED.test(text[start]!);
}

/** True when a letter outside ASCII goes on with the name behind its extension. */
function joinsName(text: string, end: number): boolean {
  const after = text[end];
  return after !== undefined && after > '\u007f' && /[\p{L}\p{N}\p{M}]/u.test(after) && !UNSPACED.test(after);
}

/** The folders written before a name: 'img/2024' for '../img/2024/|a.jpg'; '' when there are none. */
function pathBefore(text: string, start: number): string {
  let at = start;
  while (at > 0 && start - at < 1000 && !/[\s"'`()<>=,;:|*?#&{}[\]]/.test(text[at - 1]!)) at--;
  return text
    .slice(at, start)
    .split(/[\\/]+/)
    .filter((name) => name !== '' && name !== '.' && name !== '..')
    .join('/');
}

const utf8 = new TextDecoder('utf-8', { ignoreBOM: true });

/** Percent sequences, character references and the escapes of script and JSON strings, decoded; lines stay as they are. */
function decodeAll(text: string): string {
  if (!/%[0-9a-fA-F]{2}|&[#a-zA-Z]|\\[ux/nrt]/.test(text)) return text;
  return text
    .replace(
      /\\u\{([0-9a-fA-F]{1,6})\}|\\u([0-9a-fA-F]{4})|\\x([0-9a-fA-F]{2})/g,
      (match, a?: string, b?: string, c?: string) => {
        const code = parseInt(a ?? b ?? c ?? '', 16);
        return code >= 32 && code <= 0x10ffff ? String.fromCodePoint(code) : match;
      },
    )
    .replace(/\\([/nrt])/g, (_, char: string) => (char === '/' ? '/' : ' '))
    .replace(/&(?:#[xX]?[0-9a-fA-F]+|[a-zA-Z][a-zA-Z0-9]*);/g, (match) =>
      decodeHTML(match).replace(/[\r\n]/g, ' '),
    )
    .replace(/(?:%[0-9a-fA-F]{2})+/g, (run) =>
      utf8
        .decode(Uint8Array.from(run.slice(1).split('%'), (hex) => parseInt(hex, 16)))
        .replace(/[\r\n]/g, ' '),
    );
}
