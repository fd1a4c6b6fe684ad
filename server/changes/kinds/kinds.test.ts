import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { KINDS_OF_PLAN } from '../../../core/plan/kinds/index.ts';

test.each([
  ['what is asked for', '../../../core/plan/kinds', ['index.ts', 'kind.ts', 'fields.ts', 'kinds.test.ts']],
  ['how it is computed', '.', ['index.ts', 'kind.ts', 'kinds.test.ts']],
])('of each kind of plan, %s is one file, called by its name', (_what, folder, others) => {
  const files = readdirSync(join(import.meta.dirname, folder)).filter((file) => !others.includes(file));
  expect(files.sort()).toEqual(
    Object.keys(KINDS_OF_PLAN)
      .map((name) => `${name}.ts`)
      .sort(),
  );
});
