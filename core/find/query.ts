import type { TestName } from './tests.ts';

/** One condition: a test with its value, or its opposite. */
export interface Condition {
  test: TestName;
  value: string;
  not: boolean;
}

/** Conditions of which all must hold, or any one; or the opposite. */
export interface Group {
  join: 'all' | 'any';
  of: Node[];
  not: boolean;
}

export type Node = Condition | Group;

export function isGroup(node: Node): node is Group {
  return 'of' in node;
}

export const EVERYTHING: Group = { join: 'all', of: [], not: false };

/** So many conditions and such deep groups are read from an address. */
const MOST = 100;
const DEEPEST = 4;

/**
 * A query as it stands in the address bar: conditions joined by commas, 'test:value', '!' for the opposite, groups as
 * 'any(...)' and 'all(...)'. Values are percent-encoded.
 */
export function writeQuery(query: Group): string {
  const inner = query.of.map(writeNode).join(',');
  return query.join === 'all' && !query.not ? inner : writeNode(query);
}

function writeNode(node: Node): string {
  const sign = node.not ? '!' : '';
  if (isGroup(node)) return `${sign}${node.join}(${node.of.map(writeNode).join(',')})`;
  const value = node.value === '' ? '' : `:${encodeURIComponent(node.value).replace(/[()!]/g, escaped)}`;
  return `${sign}${node.test}${value}`;
}

function escaped(char: string): string {
  return `%${char.charCodeAt(0).toString(16).toUpperCase()}`;
}

/**
 * Reads what writeQuery wrote.
 * @param known whether a test of this name exists and takes this value
 * @throws SyntaxError for anything else
 */
export function readQuery(text: string, known: (test: string, value: string) => boolean): Group {
  let at = 0;
  let count = 0;
  const wrong = (what: string) => new SyntaxError(`The search in the address can’t be read: ${what}.`);

  const nodes = (depth: number): Node[] => {
    const found: Node[] = [];
    if (at >= text.length || text[at] === ')') return found;
    for (;;) {
      found.push(node(depth));
      if (text[at] !== ',') return found;
      at++;
    }
  };
  const node = (depth: number): Node => {
    if (++count > MOST) throw wrong(`it has more than ${MOST} conditions`);
    const not = text[at] === '!';
    if (not) at++;
    const group = /^(all|any)\(/.exec(text.slice(at, at + 4));
    if (group) {
      if (depth >= DEEPEST) throw wrong('its groups are too deep');
      at += 4;
      const of = nodes(depth + 1);
      if (text[at] !== ')') throw wrong('a bracket is not closed');
      at++;
      return { join: group[1] as Group['join'], of, not };
    }
    const end = /[,)]|$/.exec(text.slice(at))!.index + at;
    const [test = '', value] = text.slice(at, end).split(':');
    at = end;
    let plain: string;
    try {
      plain = decodeURIComponent(value ?? '');
    } catch {
      throw wrong(`“${value}” is not encoded`);
    }
    if (!known(test, plain)) throw wrong(`“${test}${plain ? `: ${plain}` : ''}” is no condition`);
    return { test: test as TestName, value: plain, not };
  };

  const of = nodes(0);
  if (at < text.length) throw wrong(`something stands behind its end`);
  const [only] = of;
  return of.length === 1 && only && isGroup(only) ? only : { join: 'all', of, not: false };
}

/** Every condition of a query, also those in groups. */
export function* conditionsOf(node: Node): Generator<Condition> {
  if (!isGroup(node)) yield node;
  else for (const one of node.of) yield* conditionsOf(one);
}
