import { execFile } from 'node:child_process';
import { readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { crc32, deflateSync } from 'node:zlib';
import { afterEach, expect, test } from 'vitest';
import { MetadataTool } from '../media/metadata.ts';
import { arrive, closeSites, openSite, picture, smallSite } from '../test/site.ts';
import { limited } from './limited.ts';

afterEach(closeSites);

const run = promisify(execFile);

test.runIf(process.platform === 'linux')(
  'what is limited gets no more memory than that, and what needs less is not in its way',
  async () => {
    const taking = (megabytes: number) => {
      const program = `const b = []; for (let i = 0; i < ${megabytes / 10}; i++) b.push(Buffer.alloc(1e7, 1)); console.log('has it')`;
      const { command, args } = limited(400, process.execPath, ['-e', program]);
      return run(command, args);
    };
    expect((await taking(100)).stdout).toBe('has it\n');
    await expect(taking(600)).rejects.toThrow();
  },
);

/** An image whose text unpacks to hundreds of megabytes. */
async function packed(megabytes: number): Promise<Buffer> {
  const png = await picture(3);
  const chunk = (name: string, body: Buffer) => {
    const named = Buffer.concat([Buffer.from(name, 'latin1'), body]);
    const whole = Buffer.alloc(8 + named.length);
    whole.writeUInt32BE(body.length, 0);
    named.copy(whole, 4);
    whole.writeUInt32BE(crc32(named), 4 + named.length);
    return whole;
  };
  const text = deflateSync(Buffer.alloc(megabytes * 1e6, 'moon '), { level: 9 });
  const body = Buffer.concat([Buffer.from('Comment\0\0', 'latin1'), text]);
  return Buffer.concat([png.subarray(0, 33), chunk('zTXt', body), png.subarray(33)]);
}

test('a text that unpacks to hundreds of megabytes ends the process that reads it, and nobody else waits for it', async () => {
  const tool = new MetadataTool();
  const file = join(tmpdir(), `packed-${process.pid}.png`);
  const other = join(tmpdir(), `other-${process.pid}.jpg`);
  await writeFile(file, await packed(400));
  await writeFile(other, await picture(1, 'jpeg'));
  try {
    const heavy = Array.from({ length: 2 }, () => tool.read(file));
    expect((await tool.read(other)).note).toBeUndefined();
    for (const { note } of await Promise.all(heavy)) expect(note).toMatch(/could(n’t| not) be read/);
    expect((await tool.read(other)).note).toBeUndefined();
  } finally {
    await tool.close();
    for (const one of [file, other]) await rm(one, { force: true });
  }
}, 120_000);

test('such an image is brought in all the same, without what could not be read', async () => {
  const site = await openSite(await smallSite());
  const arrival = await arrive(site, await packed(300), 'packed.png');
  expect(arrival.state).toBe('ready');
  expect(arrival.findings.map((one) => one.text).join(' ')).toMatch(/could(n’t| not) be read/);
}, 120_000);

test('of an archive nothing is read; what only calls itself one is read', async () => {
  const tool = new MetadataTool();
  const file = join(tmpdir(), `named-${process.pid}.zip`);
  try {
    await writeFile(file, Buffer.concat([Buffer.from('PK\u0003\u0004'), Buffer.alloc(2000)]));
    expect((await tool.read(file)).note).toBeUndefined();
    await writeFile(file, await picture(2, 'jpeg', 48));
    expect((await tool.read(file)).size).toEqual({ width: 48, height: 16 });
    expect(await readFile(file)).toHaveLength((await picture(2, 'jpeg', 48)).length);
  } finally {
    await tool.close();
    await rm(file, { force: true });
  }
});
