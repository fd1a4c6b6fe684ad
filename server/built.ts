import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** The folder that `npm run build` fills, whether this runs from it or from the sources (unit tests). */
export function buildFolder(): string {
  let at = dirname(fileURLToPath(import.meta.url));
  while (!existsSync(join(at, 'package.json'))) {
    const up = dirname(at);
    if (up === at) throw new Error('package.json was not found above the running file');
    at = up;
  }
  return join(at, 'build');
}

/** A file of the build. @throws Error when the project has not been built */
export function builtFile(name: string): string {
  const file = join(buildFolder(), name);
  if (!existsSync(file)) throw new Error(`build/${name} is missing: run "npm run build" first`);
  return file;
}
