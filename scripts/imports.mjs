// What may import what: no files import each other in a circle, types included, and a room of the server only what lies below it.
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

/**
 * The rooms of the server from above to below: each may import from itself and from those below it, those of one line not from each other. The
 * record of services (app/site.ts, app/opened-site.ts) may be named everywhere, as a type: functions say what they take of it.
 */
const LEVELS = [
  ['', 'test'],
  ['app'],
  ['http'],
  ['intake', 'export', 'preview'],
  ['changes'],
  ['upkeep'],
  ['describe', 'documents'],
  ['archive'],
  ['scan', 'backup'],
  ['services', 'media', 'people'],
  ['db', 'files'],
  ['workers'],
];
/** Files at the root that everyone may import. */
const COMMON = ['built.ts', 'fault.ts', 'limits.ts', 'log.ts'];
const TYPES = ['app/site.ts', 'app/opened-site.ts', 'app/events.ts'];

function againstTheLevels(imports) {
  const faults = [];
  const levels = new Map(LEVELS.flatMap((rooms, level) => rooms.map((room) => [room, level])));
  const server = join(root, 'server');
  for (const [file, targets] of imports) {
    const from = relative(server, file);
    if (from.startsWith('..') || from.endsWith('.test.ts')) continue;
    for (const target of targets) {
      const to = relative(server, target);
      if (to.startsWith('..') || COMMON.includes(to) || TYPES.includes(to)) continue;
      const [room, other] = [from, to].map((path) => (path.includes('/') ? path.split('/')[0] : ''));
      if (!levels.has(room)) faults.push(`${from} lies in a room that has no level`);
      else if (room !== other && levels.get(room) >= levels.get(other) && !isTask(from, to))
        faults.push(`${from} imports ${to}`);
    }
  }
  return faults;
}
/** Workers do the tasks of other rooms. */
const isTask = (from, to) => /^workers\/(worker|tasks)\.ts$/.test(from) && to.startsWith('media/');

/** Fails with the circles and the imports against the levels, when there are any. */
export function refuseWrongImports() {
  const imports = importsOf();
  const circles = circlesIn(imports);
  const faults = againstTheLevels(imports);
  for (const circle of circles)
    process.stderr.write(`In a circle: ${circle.map((file) => relative(root, file)).join(', ')}\n`);
  for (const fault of faults) process.stderr.write(`Against the levels: ${fault}\n`);
  if (circles.length > 0) fail('Some files import each other in a circle; the lines above say which.');
  if (faults.length > 0) fail('Some files import from a room above theirs; the lines above say which.');
}

if (process.argv[1] === join(root, 'scripts', 'imports.mjs')) refuseWrongImports();
