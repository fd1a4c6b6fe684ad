// Files that import each other in a circle, types too: none may.
import { readdirSync, readFileSync, existsSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import ts from 'typescript';
import { fail, root } from './command.mjs';

const ROOMS = ['core', 'api', 'server', 'web', 'cli', 'demo', 'bench', 'e2e', 'scripts'];

/** Every file of ours, with those that it imports. */
function importsOf() {
  const imports = new Map();
  for (const room of ROOMS)
    for (const name of readdirSync(join(root, room), { recursive: true }))
      if (/\.(ts|vue|mjs)$/.test(name)) {
        const file = join(root, room, name);
        const text = readFileSync(file, 'utf8');
        const code = file.endsWith('.vue')
          ? [...text.matchAll(/<script[^>]*>([\s\S]*?)<\/script>/g)].map(([, script]) => script).join('\n')
          : text;
        imports.set(
          file,
          ts
            .preProcessFile(code, true, true)
            .importedFiles.map(({ fileName }) => join(dirname(file), fileName))
            .filter((target) => existsSync(target)),
        );
      }
  return imports;
}

/** Groups of files each of which leads to every other one (Tarjan 1972, strongly connected components). */
function circlesIn(imports) {
  const circles = [];
  const seen = new Map();
  const open = [];
  const visit = (file) => {
    const number = seen.size;
    seen.set(file, number);
    open.push(file);
    let low = number;
    for (const next of imports.get(file) ?? []) {
      if (!seen.has(next)) low = Math.min(low, visit(next));
      else if (open.includes(next)) low = Math.min(low, seen.get(next));
    }
    if (low === number) {
      const group = open.splice(open.indexOf(file));
      if (group.length > 1) circles.push(group);
    }
    return low;
  };
  for (const file of imports.keys()) if (!seen.has(file)) visit(file);
  return circles;
}

/** Fails with the circles, when there are any. */
export function refuseCircles() {
  const circles = circlesIn(importsOf());
  for (const circle of circles)
    process.stderr.write(`In a circle: ${circle.map((file) => relative(root, file)).join(', ')}\n`);
  if (circles.length > 0) fail('Some files import each other in a circle; the lines above say which.');
}

if (process.argv[1] === join(root, 'scripts', 'circles.mjs')) refuseCircles();
