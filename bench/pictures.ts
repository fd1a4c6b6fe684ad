import { mkdtempSync, readdirSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { makeDemo, SEED } from '../demo/make.ts';

let made: Promise<{ folder: string; paths: string[] }> | undefined;

/** Pictures of the demo in fair detail that are no sizes, copies or uploads of one another; painted once. */
export function demoPictures(): Promise<{ folder: string; paths: string[] }> {
  return (made ??= (async () => {
    const folder = join(mkdtempSync(join(tmpdir(), 'iconomos-bench-')), 'pictures');
    const wanted = ({ path, recipe }: { path: string; recipe: { make: string } }) =>
      path.startsWith('images/') &&
      /\.(jpe?g|png)$/.test(path) &&
      !/-\d{3,}\.|@2x/.test(path) &&
      recipe.make !== 'copy';
    await makeDemo(folder, SEED, () => {}, wanted, 400);
    const paths = readdirSync(join(folder, 'images'), { withFileTypes: true, recursive: true })
      .filter((one) => one.isFile())
      .map((one) => join(one.parentPath, one.name))
      .filter((path) => statSync(path).size > 3000)
      .sort();
    return { folder, paths };
  })());
}
