import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { readdir } from 'node:fs/promises';
import { afterEach, describe, expect, test } from 'vitest';
import { closeSites, openSite, picture, smallSite } from '../test/site.ts';
import { Arrivals } from './arrivals.ts';
import { fetchFile } from './fetch.ts';
import { isPublic } from '../services/outgoing.ts';

afterEach(closeSites);

describe('fetching from elsewhere', () => {
  let supplier: Server | undefined;
  afterEach(() => supplier?.close());
  const serve = async (answer: Parameters<typeof createServer>[1]): Promise<string> => {
    supplier = createServer(answer!);
    await new Promise<void>((done) => supplier!.listen(0, '127.0.0.1', done));
    return `127.0.0.1:${(supplier.address() as AddressInfo).port}`;
  };
  const to = { personId: 1, folder: 'img' };

  test('the private network is out of reach: by number, by name, in other spellings, and after a redirect', async () => {
    const site = await openSite(await smallSite());
    let asked = 0;
    const host = await serve((_req, res) => {
      asked++;
      res.writeHead(302, { Location: `http://localhost:${host.split(':')[1]}/x.png` }).end();
    });
    const port = host.split(':')[1];
    for (const address of [
      `http://${host}/a.png`,
      `http://localhost:${port}/a.png`,
      `http://2130706433:${port}/a.png`,
      `http://0x7f.1:${port}/a.png`,
      `http://[::1]:${port}/a.png`,
      `http://[::ffff:127.0.0.1]:${port}/a.png`,
      'http://169.254.169.254/latest/meta-data',
      'http://10.0.0.1/',
      'http://0.0.0.0/',
    ])
      await expect(fetchFile(site, { allowed: true, hosts: [] }, address, to), address).rejects.toMatchObject(
        {
          code: 'forbidden',
        },
      );
    expect(asked).toBe(0);
    // An allowed host may not lead on to one that is not.
    await expect(
      fetchFile(site, { allowed: true, hosts: [host] }, `http://${host}/a.png`, to),
    ).rejects.toMatchObject({ code: 'forbidden', message: expect.stringContaining('private network') });
    for (const address of ['file:///etc/passwd', 'ftp://x.example/a', 'http://user:pw@x.example/', 'nothing'])
      await expect(fetchFile(site, { allowed: true, hosts: [] }, address, to)).rejects.toMatchObject({
        code: 'bad-request',
      });
    expect(site.arrivals.of(1)).toEqual([]);
  });

  test('a supplier’s file comes through the same door; what is no file is told', async () => {
    const site = await openSite(await smallSite());
    const bytes = await picture(60);
    const host = await serve((req, res) => {
      if (req.url === '/Sch%C3%B6nes%20Bild.png') res.end(bytes);
      else res.writeHead(404).end('no');
    });
    const setting = { allowed: true, hosts: [host] };
    await fetchFile(site, setting, `http://${host}/Sch%C3%B6nes%20Bild.png`, to);
    await site.checking.settled();
    expect((await new Arrivals(site).since(1, 0)).changed).toMatchObject([
      { state: 'ready', givenName: 'Schönes Bild.png', name: 'schones-bild.png', folder: 'img' },
    ]);
    await expect(fetchFile(site, setting, `http://${host}/none.png`, to)).rejects.toMatchObject({
      message: expect.stringContaining('answered 404'),
    });
    await expect(
      fetchFile(site, { allowed: false, hosts: [] }, `http://${host}/x.png`, to),
    ).rejects.toMatchObject({ code: 'forbidden' });
  });

  test('fetching ends with whoever waits for it, and after a time in any case', async () => {
    const site = await openSite(await smallSite());
    let ended = 0;
    const host = await serve((req, res) => {
      res.on('close', () => ended++);
      res.writeHead(200, { 'Content-Type': 'image/png' });
      // A little every now and then: it never is idle.
      const drip = setInterval(() => res.write('x'), 20);
      req.on('close', () => clearInterval(drip));
    });
    const setting = { allowed: false, hosts: [host] };
    const leaves = new AbortController();
    const waited = fetchFile(site, setting, `http://${host}/a.png`, to, leaves.signal);
    setTimeout(() => leaves.abort(new Error('left')), 200);
    await expect(waited).rejects.toThrow();
    await expect(
      fetchFile(site, setting, `http://${host}/a.png`, to, undefined, { fetchWhole: 300 }),
    ).rejects.toMatchObject({ message: expect.stringContaining('takes too long') as string });
    await expect.poll(() => ended).toBe(2);
    expect(site.arrivals.of(1)).toEqual([]);
    expect(await readdir(site.data.arrivals)).toEqual([]);
  });

  test('naming one host allows no other, and where fetching is off nothing is asked of any', async () => {
    const site = await openSite(await smallSite());
    for (const hosts of [[], ['supplier.example:443']])
      await expect(
        fetchFile(site, { allowed: false, hosts }, 'http://93.184.216.34/a.png', to),
      ).rejects.toMatchObject({
        code: 'forbidden',
        message: expect.stringContaining('switched off') as string,
      });
  });

  test.each([
    ['8.8.8.8', true],
    ['192.168.1.1', false],
    ['100.64.0.1', false],
    ['fe80::1', false],
    ['fc00::1', false],
    ['::ffff:10.0.0.1', false],
    ['2606:4700::1111', true],
    ['224.0.0.1', false],
    ['::7f00:1', false],
    ['::127.0.0.1', false],
    ['64:ff9b::7f00:1', false],
    ['2002:7f00:1::', false],
    ['fec0::1', false],
  ])('%s is public: %s', (address, yes) => expect(isPublic(address)).toBe(yes));
});
