import { execFileSync } from 'node:child_process';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { onBehalf } from './fair.ts';
import { Jobs } from './jobs.ts';
import { Pool } from './pool.ts';

describe('the pool of worker processes', () => {
  let pool: Pool;
  let folder: string;
  beforeEach(async () => {
    pool = new Pool(2);
    folder = await mkdtemp(join(tmpdir(), 'iconomos-pool-'));
  });
  afterEach(async () => {
    await pool.close();
    await rm(folder, { recursive: true });
  });
  const file = async (name: string, content: string) => {
    await writeFile(join(folder, name), content);
    return join(folder, name);
  };
  /** The process of the only worker; it has answered once, so that it is there with its own command line. */
  const theWorker = async (): Promise<number> => {
    await pool.run('hash', { file: await file('first.txt', 'abc') });
    const found = execFileSync('pgrep', ['-P', String(process.pid), '-f', 'worker.js'], {
      encoding: 'utf8',
    });
    expect(found).toMatch(/^\d+\n$/);
    return Number(found);
  };

  test('a failing task fails alone, in words; the others go on', async () => {
    const good = await file('a.txt', 'abc');
    const done = await Promise.allSettled([
      pool.run('hash', { file: join(folder, 'none') }),
      ...Array.from({ length: 8 }, () => pool.run('hash', { file: good })),
    ]);
    expect(done[0]).toMatchObject({
      status: 'rejected',
      reason: expect.objectContaining({ message: expect.stringContaining('ENOENT') }),
    });
    for (const one of done.slice(1)) {
      expect(one).toEqual({
        status: 'fulfilled',
        value: 'ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad',
      });
    }
  });

  test('who asks for one thing does not wait for the hundred of another', async () => {
    const quick = await file('a.txt', 'abc');
    const order: string[] = [];
    // One worker: what begins first ends first, however busy the machine is.
    const one = new Pool(1);
    const hash = (who: string) => one.run('hash', { file: quick }).then(() => order.push(who));
    const hundred = onBehalf(1, () => Array.from({ length: 100 }, () => hash('one')));
    const single = onBehalf(2, () => hash('other'));
    await Promise.all([...hundred, single]);
    await one.close();
    // The first is at work when the others line up.
    expect(order.slice(0, 4)).toEqual(['one', 'one', 'other', 'one']);
  });

  test('a task that outlives its time ends its worker; a new one takes the place and knows the names', async () => {
    pool.share('names', { version: 1, paths: 'a.png' });
    const slow = await file('slow.html', '<img src="x.png">'.repeat(200_000));
    await expect(
      pool.run('read', { file: slow, path: 'slow.html', parse: true }, { limit: 1 }),
    ).rejects.toThrow('took longer than');
    await expect(
      pool.run('read', { file: slow, path: 'slow.html', parse: true }, { limit: 1 }),
    ).rejects.toThrow('took longer than');
    const text = await file('t.txt', 'see a.png');
    expect(await pool.run('search', { file: text, version: 1, spans: [] })).toEqual([
      { path: 'a.png', line: 1 },
    ]);
  });

  test('a task that is stopped ends its worker at once; those that wait never start, and others go on', async () => {
    const slow = await file('slow.html', '<img src="x.png">'.repeat(400_000));
    const quick = await file('a.txt', 'abc');
    const stop = new AbortController();
    const { signal } = stop;
    const read = () => pool.run('read', { file: slow, path: 'slow.html', parse: true }, { signal });
    // Two are at work, two wait.
    const stopped = [read(), read(), read(), read()];
    const other = pool.run('hash', { file: quick });
    setTimeout(() => stop.abort(), 50);
    for (const one of await Promise.allSettled(stopped))
      expect(one).toMatchObject({
        status: 'rejected',
        reason: expect.objectContaining({ message: 'it was stopped' }),
      });
    expect(await other).toMatch(/^ba7816bf/);
    await expect(read()).rejects.toThrow('it was stopped');
    expect(await pool.run('hash', { file: quick })).toMatch(/^ba7816bf/);
  });

  test('searches of several sites keep their names apart, until they are dropped', async () => {
    const text = await file('t.txt', 'see a.png and b.png');
    pool.share('names', { version: 1, paths: 'a.png' });
    const search = (version: number) => pool.run('search', { file: text, version, spans: [] });
    const first = search(1);
    pool.share('names', { version: 2, paths: 'b.png' });
    expect(await first).toEqual([{ path: 'a.png', line: 1 }]);
    expect(await search(2)).toEqual([{ path: 'b.png', line: 1 }]);
    expect(await search(1)).toEqual([{ path: 'a.png', line: 1 }]);
    pool.drop('names', 1);
    await expect(search(1)).rejects.toThrow('not here');
    expect(await search(2)).toEqual([{ path: 'b.png', line: 1 }]);
  });

  test('a worker that dies loses its own task only', async () => {
    const slow = await file('slow.html', '<img src="x.png">'.repeat(100_000));
    const worker = await theWorker();
    const lost = pool.run('read', { file: slow, path: 'slow.html', parse: true });
    process.kill(worker, 'SIGSEGV');
    await expect(lost).rejects.toThrow('failed on it');
    expect(await pool.run('hash', { file: await file('a.txt', 'abc') })).toMatch(/^ba7816bf/);
  });

  test.runIf(process.platform === 'linux')(
    'time that the machine gives to others counts for no task',
    async () => {
      const slow = await file('long.html', '<img src="x.png">'.repeat(20_000));
      const worker = await theWorker();
      const read = pool.run('read', { file: slow, path: 'long.html', parse: true }, { limit: 3000 });
      process.kill(worker, 'SIGSTOP');
      await new Promise((done) => setTimeout(done, 4000));
      process.kill(worker, 'SIGCONT');
      expect((await read).reading?.references).toHaveLength(20_000);
    },
  );

  test('an image that takes more memory than one may ends its worker, and is told', async () => {
    const tight = new Pool(1, 60);
    try {
      const path = join(folder, 'wide.png');
      await sharp({ create: { width: 4300, height: 4300, channels: 4, background: '#246' } })
        .png()
        .toFile(path);
      // Choosing a palette takes the whole image at once, 74 MB.
      const wide = {
        file: path,
        to: `${path}.out`,
        asked: {
          mime: 'image/png',
          recipe: { version: 1 as const, file: { quality: { mostBytes: 1000 } } },
        },
      };
      await expect(tight.run('prepare', wide)).rejects.toThrow('more memory than one file may');
      expect(await pool.run('prepare', wide)).toMatchObject({ width: 4300 });
      expect(await tight.run('hash', { file: await file('a.txt', 'abc') })).toMatch(/^ba7816bf/);
    } finally {
      await tight.close();
    }
  });

  test('each: as many at once as there are workers, every outcome once, stopped by its signal', async () => {
    const good = await file('a.txt', 'abc');
    const seen: number[] = [];
    await pool.each(
      'hash',
      Array.from({ length: 20 }, (_, i) => [i, { file: i === 7 ? 'none' : good }] as const),
      (key, outcome) => void seen.push('error' in outcome ? -key : key),
    );
    expect(seen.sort((a, b) => a - b)).toEqual([
      -7,
      ...Array.from({ length: 20 }, (_, i) => i).filter((i) => i !== 7),
    ]);
    const stop = new AbortController();
    let outcomes = 0;
    const stopped = pool.each(
      'hash',
      Array.from({ length: 500 }, (_, i) => [i, { file: good }] as const),
      () => {
        if (++outcomes === 10) stop.abort(new Error('enough'));
      },
      { signal: stop.signal },
    );
    await expect(stopped).rejects.toThrow('enough');
    expect(outcomes).toBeLessThan(100);
  });

  test('each, several at once: a worker that is lost with them loses only the guilty one', async () => {
    const wide = { file: join(folder, 'wide.png'), to: join(folder, 'w.webp') };
    await sharp({ create: { width: 9000, height: 9000, channels: 3, background: '#123' } })
      .png()
      .toFile(wide.file);
    const small = { ...wide, file: join(folder, 'small.png') };
    await sharp({ create: { width: 9, height: 9, channels: 3, background: '#123' } })
      .png()
      .toFile(small.file);
    const tight = new Pool(1, 40);
    try {
      const seen: Record<number, string> = {};
      await tight.each(
        'prepare',
        [small, { ...small, file: 'none' }, wide, small, small].map(
          (one, key) =>
            [
              key,
              {
                ...one,
                asked: {
                  mime: 'image/png',
                  recipe: {
                    version: 1 as const,
                    size: { by: 'longest' as const, pixels: 4000 },
                    file: { format: 'webp' as const },
                  },
                },
              },
            ] as const,
        ),
        (key, outcome) =>
          void (seen[key] =
            'error' in outcome
              ? outcome.error.message
              : 'refused' in outcome.output
                ? outcome.output.refused
                : 'done'),
        { together: 5 },
      );
      expect(seen).toMatchObject({ 0: 'done', 3: 'done', 4: 'done' });
      expect(seen[1]).toContain('can’t be decoded');
      expect(seen[2]).toContain('more memory than one file may');
    } finally {
      await tight.close();
    }
  });

  test('a closed pool takes nothing more', async () => {
    await pool.close();
    await expect(pool.run('hash', { file: 'x' })).rejects.toThrow('closed');
  });
});

describe('jobs', () => {
  const jobs = () => new Jobs(() => '2026-01-01T00:00:00.000Z');
  test('tells progress, result and failure; a failure is also thrown', async () => {
    const list = jobs();
    const told: string[] = [];
    list.onProgress((job) => told.push(`${job.state} ${job.done}/${job.total}`));
    expect(await list.run('x', 'X', async (job) => (job.progress(1, 2, 'things'), 'result'))).toBe('result');
    await expect(list.run('y', 'Y', () => Promise.reject(new Error('no')))).rejects.toThrow('no');
    expect(told).toEqual(['running 0/0', 'running 1/2', 'done 1/2', 'running 0/0', 'failed 0/0']);
    expect(list.list().map((job) => job.error)).toEqual([undefined, 'no']);
  });
  test('can be cancelled, once, and stopping ends all of them', async () => {
    const list = jobs();
    const wait = () =>
      list.run(
        'w',
        'W',
        ({ signal }) =>
          new Promise((_, failed) => signal.addEventListener('abort', () => failed(signal.reason as Error))),
      );
    const first = wait();
    const { id } = list.list()[0]!;
    expect(list.cancel(id)).toBe(true);
    await expect(first).rejects.toThrow('cancelled');
    expect(list.cancel(id)).toBe(false);
    expect(list.list()[0]!.state).toBe('cancelled');
    const second = wait().catch((error: Error) => error.message);
    await list.settled();
    expect(await second).toBe('the server is stopping');
  });
  test('forgets old ones', async () => {
    const list = jobs();
    for (let i = 0; i < 40; i++) await list.run('x', `${i}`, () => Promise.resolve());
    expect(list.list()).toHaveLength(20);
    expect(list.list().at(-1)!.title).toBe('39');
  });
});
