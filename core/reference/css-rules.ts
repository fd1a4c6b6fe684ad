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

/** The selectors that a place in a style sheet holds for: those of the innermost rule around it. */
export function selectorsAt(rules: readonly CssRule[], offset: number): string | undefined {
  return rules.findLast((rule) => rule.start <= offset && offset < rule.end)?.selectors;
}
