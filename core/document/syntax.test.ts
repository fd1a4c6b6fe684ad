import { expect, test } from 'vitest';
import { syntaxFault } from './syntax.ts';

test.each<[string, string, object | undefined]>([
  ['a.json', '{"a": [1, 2]}\n', undefined],
  ['a.json', '{\n  "a": [1, 2\n}\n', { form: 'JSON', line: 3 }],
  ['a.json', '{\n  "a": 1,\n}', { form: 'JSON', line: 3 }],
  ['a.json', '', { form: 'JSON', line: 1 }],
  ['a.yml', 'a: 1\nb:\n  - x\n---\nc: 2\n', undefined],
  ['a.yaml', 'a: 1\nb: [x\n', { form: 'YAML', line: 3 }],
  ['a.txt', '{"a": [1, 2', undefined],
])('%s with %j', (path, text, fault) => {
  expect(syntaxFault(path, text)).toEqual(fault);
});
