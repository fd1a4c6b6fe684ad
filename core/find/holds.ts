import { isGroup, type Condition, type Node } from './query.ts';
import { TESTS, type Facts, type Test } from './tests.ts';

/** Whether an item fits a query: what the store's SQL must answer too. */
export function holds(node: Node, item: Facts): boolean {
  const yes = isGroup(node)
    ? node.join === 'all'
      ? node.of.every((one) => holds(one, item))
      : node.of.length === 0 || node.of.some((one) => holds(one, item))
    : (TESTS[node.test] as Test).holds(item, node.value);
  return yes !== node.not;
}

/** A condition as words of a sentence: 'kind is image', 'not tagged “moon”'. */
export function sentenceOf(condition: Condition): string {
  const test: Test = TESTS[condition.test];
  return condition.not ? test.denies(condition.value) : test.says(condition.value);
}
