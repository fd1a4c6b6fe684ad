import { execFile } from 'node:child_process';
import { lutimes, mkdtemp, readdir, readFile, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { promisify } from 'node:util';
import Ajv from 'ajv/dist/2020.js';
import Database from 'better-sqlite3';
import { afterEach, describe, expect, test } from 'vitest';
import { seeded } from '../../core/test/chance.ts';
import { RECORD_KINDS, RECORDS, recordsAt, schemaAt, siteFileAt } from '../../core/archive/records.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { DataPaths } from '../files/data-paths.ts';
import { besideSite } from '../files/data-folder.ts';
import { openDatabase } from '../db/open.ts';
import { applied, KINDS_OF_PLANS, randomRequest } from '../test/random-plans.ts';
import { linkedFiles, recordsOf } from '../test/random-site.ts';
import { apply, idOf, plan } from '../test/plans.ts';
import { applyProposal } from '../changes/apply.ts';
import { arrive, closeSites, openSite, picture, siteFolder, smallSite, treeOf } from '../test/site.ts';
import { BagWriter } from './bag-writer.ts';
import { bringArchive } from './bring.ts';
import { checkBag } from './check.ts';
import { fieldOf, LEFT_OUT, TABLES } from './tables.ts';
import { writeArchive } from './write.ts';

const run = promisify(execFile);
const folders: string[] = [];
afterEach(async () => {
  await closeSites();
  for (const one of folders.splice(0)) await rm(one, { recursive: true, force: true });
});
async function place(): Promise<string> {
  const one = await mkdtemp(join(tmpdir(), 'iconomos-archive-'));
  folders.push(one);
  return one;
}
const following = { now: () => '2026-12-01T08:00:00.000Z' };
async function archived(root: string): Promise<string> {
  const to = join(await place(), 'bag');
  const made = await writeArchive({ root, data: new DataPaths(besideSite(root)) }, to, following);
  expect(made.notes).toEqual([]);
  return to;
}
async function brought(bag: string) {
  const root = join(await place(), 'site');
  return { root, ...(await bringArchive(bag, { root, data: besideSite(root) })) };
}

/** Every row that an archive speaks of, by its table; passwords stay behind. */
function rowsOf(root: string): Record<string, unknown[]> {
  const db = new Database(new DataPaths(besideSite(root)).database, { readonly: true });
  try {
    const rows = TABLES.map(({ table, where, order, derived }): [string, unknown[]] => {
      const all = db
        .prepare(`select * from ${table} ${where ? `where ${where}` : ''} order by ${order}`)
        .all() as Record<string, unknown>[];
      for (const row of all) {
        if (table === 'person') row['password'] = null;
        if (table === 'arrival') row['upload'] = null;
        // Numbered anew when the pages are read.
        if (derived) delete row['id'];
      }
      return [table, derived ? all.map((row) => JSON.stringify(row)).sort() : all];
    });
    const tagged = db.prepare(
      'select item_id, name from item_tag join tag on tag.id = tag_id order by item_id, name',
    );
    return { ...Object.fromEntries(rows), item_tag: tagged.all() };
  } finally {
    db.close();
  }
}

/** A library with something of every kind in it. */
async function worked(): Promise<{ root: string; site: OpenedSite }> {
  const root = await smallSite();
  const site = await openSite(root);
  const b = idOf(site, 'img/b.png');
  await apply(site, { kind: 'cells', cells: [{ itemId: b, set: { alt: 'A hill, “blue”\nat night' } }] });
  await apply(site, { kind: 'set-aside', itemIds: [idOf(site, 'img/unused.png')] });
  await apply(site, { kind: 'address', itemId: b, folder: 'new', name: 'hill 100%.png' });
  await arrive(site, await picture(9), 'waits.png');
  return { root, site };
}

/** Writes the lists of a bag anew, after something in it was changed. */
async function listedAnew(bag: string): Promise<void> {
  const info = await readFile(join(bag, 'bag-info.txt'), 'utf8');
  const writer = new BagWriter(join(await place(), 'bag'));
  for (const one of await readdir(join(bag, 'data'), { recursive: true, withFileTypes: true }))
    if (one.isFile()) {
      const path = join(one.parentPath, one.name).slice(bag.length + 1);
      await writer.copy(join(bag, path), path);
    }
  const labels = info
    .split('\n')
    .filter((line) => line !== '' && !line.startsWith('Payload-Oxum'))
    .map((line) => line.split(': ') as [string, string]);
  await writer.finish(labels);
  for (const name of await readdir(writer.root))
    if (name.endsWith('.txt')) await writeFile(join(bag, name), await readFile(join(writer.root, name)));
}

describe('a library that goes out and comes in is the same', () => {
  test.each([3, 41])('after plans of every kind: every row and every byte (seed %i)', async (seed) => {
    const chance = seeded(seed);
    const root = await siteFolder(await linkedFiles(chance, 8, 14));
    const site = await openSite(root);
    await site.analyser.analyseAll();
    await site.checks.refresh();
    for (const kind of [...KINDS_OF_PLANS()].sort(() => chance.below(3) - 1)) {
      const request = await randomRequest(kind, {
        site,
        chance,
        first: (one) => applied(site, one),
        others: async (_item, act) => {
          // Nobody writes a file of the same length within one tick of the file system’s clock.
          await setTimeout(20);
          await act();
          await setTimeout(20);
          await site.scanner.scan();
        },
      });
      if (request) await applied(site, request);
    }
    await site.scanner.scan();
    const records = await recordsOf(site);
    const before = rowsOf(root);
    expect(before['ledger']!.length).toBeGreaterThan(20);

    const bag = await archived(root);
    const { root: other, faults } = await brought(bag);
    expect(faults).toEqual([]);
    expect(await treeOf(other)).toEqual(await treeOf(root));
    const again = await openSite(other);
    expect(rowsOf(other)).toEqual(before);
    expect(await recordsOf(again)).toEqual(records);

    // All that was done there can still be undone here.
    let undone = 0;
    for (const { id, undoneBy, state } of again.rows.list(500).filter(({ kind }) => kind !== 'undo')) {
      if (undoneBy !== null || state !== 'done') continue;
      const undo = { kind: 'undo', entryId: id } as const;
      const [here, there] = await Promise.all([plan(again, undo), plan(site, undo)]);
      expect(here.plan.clashes, here.plan.title).toEqual(there.plan.clashes);
      if (there.plan.clashes.length > 0) continue;
      await applyProposal(again, here, 1);
      await applyProposal(site, there, 1);
      undone++;
    }
    expect(undone).toBeGreaterThan(5);
    expect(await treeOf(other)).toEqual(await treeOf(root));
  });

  test('with files at the door, with links, rights, times and empty folders', async () => {
    const { root } = await worked();
    await symlink('index.html', join(root, 'start.html'));
    await lutimes(join(root, 'start.html'), 1e9, 1e9);
    await run('mkdir', ['-p', join(root, 'nothing/in it')]);
    await run('chmod', ['640', join(root, 'index.html')]);
    const { root: other } = await brought(await archived(root));
    const listed = async (at: string) =>
      // The time of a link itself is nobody’s.
      (
        await run(
          'find',
          ['.', '(', '-type', 'l', '-printf', '%p l %l\n', ')', '-o', '-printf', '%p %y %m %Ts\n'],
          { cwd: at },
        )
      ).stdout
        .split('\n')
        .filter((line) => !/ d /.test(line))
        .sort();
    expect(await listed(other)).toEqual(await listed(root));
    expect(await readdir(join(other, 'nothing'))).toEqual(['in it']);
    const site = await openSite(other);
    const [waiting] = site.db.all<{ given_name: string; sha256: string }>('select * from arrival');
    expect(waiting!.given_name).toBe('waits.png');
    expect(site.blobs.has(waiting!.sha256)).toBe(true);
  });

  test('but for what lets people in', async () => {
    const { root, site } = await worked();
    site.db.run("update person set password = 'secret-hash' where id = 1");
    const bag = await archived(root);
    const { stdout } = await run('grep', ['-rc', 'secret-hash', join(bag, 'data', 'records')]).catch(
      (error: { stdout: string }) => error,
    );
    expect(stdout.split('\n').filter((line) => line !== '' && !line.endsWith(':0'))).toEqual([]);
    const { root: other } = await brought(bag);
    const again = await openSite(other);
    expect(again.db.values('select password from person')).toEqual([null, null]);
  });
});

describe('the bag', () => {
  test('is checked by other programs: hashes by those of the system, records by their schemas', async () => {
    const { root } = await worked();
    await writeFile(join(root, 'a line\nbreak & 50%.txt'), 'x');
    const bag = await archived(root);
    for (const hash of ['sha256', 'sha512']) {
      for (const list of [`manifest-${hash}.txt`, `tagmanifest-${hash}.txt`]) {
        // Those programs write line ends in names in a way of their own.
        const lines = (await readFile(join(bag, list), 'utf8')).split('\n');
        const plain = lines.filter((line) => !line.includes('%')).join('\n');
        await writeFile(join(bag, '..', 'list'), plain);
        await run(`${hash}sum`, ['--strict', '--quiet', '-c', '../list'], { cwd: bag });
        expect(lines.length - plain.split('\n').length).toBe(list.startsWith('tag') ? 0 : 2);
      }
    }
    const ajv = new Ajv({ strict: true });
    let records = 0;
    for (const kind of RECORD_KINDS) {
      const schema = JSON.parse(await readFile(join(bag, schemaAt(kind)), 'utf8')) as object;
      const fits = ajv.compile(schema);
      for (const line of (await readFile(join(bag, recordsAt(kind)), 'utf8')).split('\n')) {
        if (line === '') continue;
        records++;
        expect(fits(JSON.parse(line)), `${kind}: ${ajv.errorsText(fits.errors)}`).toBe(true);
        expect(fits({ ...(JSON.parse(line) as object), more: 1 })).toBe(false);
      }
    }
    expect(records).toBeGreaterThan(50);
    const { faults, sound } = await checkBag(bag);
    expect(faults).toEqual([]);
    expect(sound.has(siteFileAt('a line\nbreak & 50%.txt'))).toBe(true);
  });

  test('tells of items as linked data', async () => {
    const { root } = await worked();
    const text = await readFile(join(await archived(root), 'data/records/items.jsonld'), 'utf8');
    const { '@graph': graph, '@context': context } = JSON.parse(text) as {
      '@context': Record<string, string>;
      '@graph': Record<string, unknown>[];
    };
    expect(context['@vocab']).toBe('https://schema.org/');
    expect(graph.find((one) => one['@id'] === 'data/site/new/hill%20100%25.png')).toMatchObject({
      '@type': 'ImageObject',
      name: 'hill 100%.png',
      'iptc:AltTextAccessibility': 'A hill, “blue”\nat night',
      encodingFormat: 'image/png',
      width: { value: 24 },
    });
    expect(graph.some((one) => String(one['@id']).includes('unused'))).toBe(false);
  });

  test('holds every table of the database, or says why not; and every column', async () => {
    const db = openDatabase(join(await place(), 'x.db'));
    const tables = db.values<string>(
      "select name from sqlite_schema where type = 'table' and name not like 'sqlite_%' and name not like '%_words%'",
    );
    const held = [...TABLES.map(({ table }) => table), ...Object.keys(LEFT_OUT)];
    expect([...tables].sort()).toEqual([...new Set(held)].sort());
    for (const { kind, table, without = [] } of TABLES) {
      const columns = db.values<string>('select name from pragma_table_info(?)', table);
      const fields = columns.filter((column) => !without.includes(column)).map(fieldOf);
      if (table === 'item') fields.push('tags');
      expect(Object.keys((RECORDS[kind] as { shape: object }).shape).sort(), table).toEqual(fields.sort());
    }
    db.close();
  });

  test('is not written into the site, nor over anything', async () => {
    const { root } = await worked();
    const source = { root, data: new DataPaths(besideSite(root)) };
    await expect(writeArchive(source, join(root, 'bag'), following)).rejects.toThrow(
      'lies in what is archived',
    );
    await expect(writeArchive(source, dirname(root), following)).rejects.toThrow('around it');
    const full = await place();
    await writeFile(join(full, 'mine.txt'), 'x');
    await expect(writeArchive(source, full, following)).rejects.toThrow('isn’t empty');
    expect(await readdir(full)).toEqual(['mine.txt']);
  });

  test('is not there when it was stopped', async () => {
    const { root } = await worked();
    const at = await place();
    const stop = new AbortController();
    const made = writeArchive({ root, data: new DataPaths(besideSite(root)) }, join(at, 'bag'), {
      ...following,
      signal: stop.signal,
      progress: (done) => done === 3 && stop.abort(new Error('stopped')),
    });
    await expect(made).rejects.toThrow('stopped');
    expect(await readdir(at)).toEqual([]);
  });

  test('says what could not be kept', async () => {
    const { root, site } = await worked();
    const [aside] = site.db.values<string>("select sha256 from item where state = 'aside'");
    await site.blobs.drop(aside!);
    const { notes } = await writeArchive(
      { root, data: new DataPaths(besideSite(root)) },
      join(await place(), 'bag'),
      following,
    );
    expect(notes).toEqual([
      'The set-aside item “img/unused.png” needs content that is missing or damaged. It isn’t in here.',
    ]);
  });
});

describe('a bag that is not as it should be', () => {
  test('is told line by line, and the rest comes in', async () => {
    const { root } = await worked();
    const bag = await archived(root);
    await writeFile(join(bag, siteFileAt('img/c.png')), 'other bytes');
    await rm(join(bag, siteFileAt('js/app.js')));
    await writeFile(join(bag, 'data/site/more.txt'), 'not listed');
    await symlink('/etc/passwd', join(bag, 'data/site/link.txt'));
    const list = join(bag, 'manifest-sha256.txt');
    const text = await readFile(list, 'utf8');
    const hash = 'a'.repeat(64);
    await writeFile(
      list,
      `${text}${hash}  ../../etc/passwd\n${hash}  /etc/passwd\nnonsense\n${hash}  data/site/none.txt\nabc  data/x\n${text.split('\n')[0]!}\n`,
    );
    const at = text.split('\n').length;
    const appAt = text.split('\n').findIndex((line) => line.endsWith('js/app.js')) + 1;
    const { faults } = await checkBag(bag);
    expect(faults).toEqual(
      expect.arrayContaining([
        {
          file: 'manifest-sha256.txt',
          line: at,
          says: '“../../etc/passwd” is left out. It leads out of the bag.',
        },
        {
          file: 'manifest-sha256.txt',
          line: at + 1,
          says: '“/etc/passwd” is left out. It begins outside of the bag.',
        },
        { file: 'manifest-sha256.txt', line: at + 2, says: 'The line isn’t a hash with a path.' },
        { file: 'manifest-sha256.txt', line: at + 3, says: '“data/site/none.txt” is missing.' },
        { file: 'manifest-sha256.txt', line: at + 4, says: 'The hash of “data/x” isn’t one of SHA256.' },
        {
          file: 'manifest-sha256.txt',
          line: at + 5,
          says: expect.stringMatching(/is listed twice\.$/) as string,
        },
        { file: 'manifest-sha256.txt', line: appAt, says: '“data/site/js/app.js” is missing.' },
        {
          file: 'data/site/img/c.png',
          line: 0,
          says: 'Its bytes aren’t those of the list (sha256, sha512).',
        },
        { file: 'data/site/more.txt', line: 0, says: 'It isn’t in the lists of the bag.' },
        { file: 'data/site/link.txt', line: 0, says: 'It is a link, and links are not followed.' },
      ]),
    );
    const { root: other, faults: told } = await brought(bag);
    expect(told).toEqual(faults);
    const [before, now] = [await treeOf(root), await treeOf(other)];
    expect(Object.keys(before).filter((path) => now[path] !== before[path])).toEqual([
      'img/c.png',
      'js/app.js',
    ]);
    expect(Object.keys(now).filter((path) => before[path] === undefined)).toEqual([]);
  });

  test('of records, too', async () => {
    const { root } = await worked();
    const bag = await archived(root);
    const rules = join(bag, recordsAt('treatments'));
    await writeFile(
      rules,
      '{"name":"Web","treatment":{}}\n{"name":5}\nno JSON\n{"name":"WEB","treatment":{}}\n',
    );
    await listedAnew(bag);
    const { faults, records } = await brought(bag);
    expect(faults.map(({ file, line }) => [file, line])).toEqual([
      [recordsAt('treatments'), 2],
      [recordsAt('treatments'), 3],
    ]);
    expect(records['treatments']).toBe(2);
    const items = join(bag, recordsAt('items'));
    const [, ...others] = (await readFile(items, 'utf8')).split('\n');
    await writeFile(items, ['{}', ...others].join('\n'));
    await writeFile(join(bag, recordsAt('people')), '');
    await listedAnew(bag);
    const at = join(await place(), 'site');
    await expect(bringArchive(bag, { root: at, data: besideSite(at) })).rejects.toThrow(
      'refer to others that can’t be read',
    );
    expect(await readdir(dirname(at))).not.toContain('site');
  });

  test.each([
    ['no declaration', (bag: string) => rm(join(bag, 'bagit.txt')), 'isn’t a bag'],
    [
      'another encoding',
      (bag: string) =>
        writeFile(join(bag, 'bagit.txt'), 'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-16\n'),
      'in UTF-16',
    ],
    [
      'no lists',
      (bag: string) => Promise.all(['256', '512'].map((one) => rm(join(bag, `manifest-sha${one}.txt`)))),
      'no list of its files',
    ],
    [
      'one of something else',
      (bag: string) => writeFile(join(bag, 'bag-info.txt'), 'Source-Organization: Somebody\n'),
      'isn’t the archive of a library',
    ],
    [
      'a newer one',
      async (bag: string) => {
        const at = join(bag, 'bag-info.txt');
        await writeFile(at, (await readFile(at, 'utf8')).replace('Archive-Format: 1', 'Archive-Format: 2'));
      },
      'has the format 2',
    ],
  ])('%s is refused with a sentence, and nothing is made', async (_name, spoil, says) => {
    const { root } = await worked();
    const bag = await archived(root);
    await spoil(bag);
    const at = join(await place(), 'site');
    await expect(bringArchive(bag, { root: at, data: besideSite(at) })).rejects.toThrow(says);
    expect(await readdir(dirname(at))).toEqual([]);
  });

  test('nothing is brought in over what is there', async () => {
    const { root } = await worked();
    const bag = await archived(root);
    const before = await treeOf(root);
    await expect(bringArchive(bag, { root, data: besideSite(root) })).rejects.toThrow('isn’t empty');
    expect(await treeOf(root)).toEqual(before);
  });
});
