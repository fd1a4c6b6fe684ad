import { parse, walk } from 'css-tree';

/** A rule of a style sheet: where its declarations lie in the text, and what they hold for. */
export interface CssRule {
  start: number;
  end: number;
  selectors: string;
}

/** The rules of a style sheet in their order, those within at-rules too (CSS Syntax Level 3); what cannot be read is passed over. */
export function cssRules(text: string): CssRule[] {
  const rules: CssRule[] = [];
  const tree = parse(text, {
    positions: true,
    parseValue: false,
    parseRulePrelude: false,
    parseCustomProperty: false,
    onParseError: () => undefined,
  });
  walk(tree, (node) => {
    if (node.type !== 'Rule' || !node.block.loc || node.prelude.type !== 'Raw') return;
    rules.push({
      start: node.block.loc.start.offset,
      end: node.block.loc.end.offset,
      selectors: node.prelude.value.trim(),
    });
  });
  return rules;
}

/**
 * The selectors that places in a style sheet hold for, each those of the innermost rule around it; undefined: it stands in none.
 * @param rules as cssRules tells them
 * @param offsets in ascending order
 */
export function selectorsAt(rules: readonly CssRule[], offsets: readonly number[]): (string | undefined)[] {
  const open: CssRule[] = [];
  let next = 0;
  return offsets.map((offset) => {
    while (next < rules.length && rules[next]!.start <= offset) {
      while (open.length > 0 && open.at(-1)!.end <= rules[next]!.start) open.pop();
      open.push(rules[next++]!);
    }
    while (open.length > 0 && open.at(-1)!.end <= offset) open.pop();
    return open.at(-1)?.selectors;
  });
}

/** Names of classes that say where something stands. */
const STANDS = /left|right|cent|wide|full|float|align|frame|figure|caption|border|round/i;

/** Classes that a style sheet seems to have for images: by their names, or as they hold for images and figures. */
export function pictureClasses(css: string): string[] {
  const found = new Set<string>();
  // What stands before a brace or a comma is a selector; what is within braces has no classes.
  for (const selector of css.split(/[{},]/)) {
    const last = [...selector.matchAll(/\b(?:img|figure)\b/g)].at(-1)?.index ?? -1;
    for (const { 0: whole, 1: name, index } of selector.matchAll(/\.(-?[A-Za-z_][\w-]*)/g))
      if (STANDS.test(name!) || last >= index + whole.length) found.add(name!);
  }
  return [...found];
}
