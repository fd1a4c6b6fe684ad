import { generateSync } from 'otplib';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { Events } from '../app/events.ts';
import { People, type Person } from '../db/people.ts';
import { TestDatabase } from '../test/database.ts';
import { Access } from './access.ts';
import { Slowing } from './slowing.ts';

const FROM = { address: '10.0.0.7', agent: 'test' };
const GOOD = 'peat tea at nine';

describe('the second factor', () => {
  let data: TestDatabase;
  let people: People;
  let access: Access;
  let now: number;
  let ottilie: Person;
  beforeEach(async () => {
    data = await TestDatabase.open();
    people = new People(data.db);
    now = Date.parse('2026-03-01T09:00:00Z');
    const site = { db: data.db, people, events: new Events(), now: () => new Date(now).toISOString() };
    access = new Access(site, () => now, new Slowing(() => Promise.resolve()));
    ({ person: ottilie } = await access.accept(
      { token: access.firstLink(), name: 'Ottilie', password: GOOD },
      FROM,
    ));
  });
  afterEach(() => data.close());

  const codeAt = (secret: string, at = now) => generateSync({ secret, epoch: at / 1000 });
  const enter = (code?: string) => access.signIn({ name: 'Ottilie', password: GOOD, code }, FROM);
  function setUp(): { secret: string; codes: string[] } {
    const { secret } = access.factors.begin(ottilie, 'moor');
    const codes = access.factors.confirm(ottilie, codeAt(secret), FROM);
    now += 60_000;
    return { secret, codes };
  }

  test('is asked for once a code was shown, not before', async () => {
    const { secret, uri } = access.factors.begin(ottilie, 'moor');
    expect(uri).toMatch(/^otpauth:\/\/totp\/.*Ottilie\?.*secret=/);
    await expect(enter()).resolves.toBeDefined();
    expect(() => access.factors.confirm(ottilie, '000000', FROM)).toThrow('doesn’t fit');
    await expect(enter()).resolves.toBeDefined();
    access.factors.confirm(ottilie, codeAt(secret), FROM);
    await expect(enter()).rejects.toMatchObject({
      code: 'code-needed',
      message: 'You have a second factor.',
    });
  });

  test('a code fits a step early or late, and works once', async () => {
    const { secret } = setUp();
    for (const off of [-90_000, 90_000])
      await expect(enter(codeAt(secret, now + off)), String(off)).rejects.toThrow('wrong, or was used');
    await expect(enter(codeAt(secret, now - 30_000))).resolves.toBeDefined();
    await expect(enter(codeAt(secret, now - 30_000))).rejects.toThrow('wrong, or was used');
    await expect(enter(` ${codeAt(secret).slice(0, 3)} ${codeAt(secret).slice(3)}`)).resolves.toBeDefined();
    await expect(enter(codeAt(secret, now - 30_000))).rejects.toThrow('wrong, or was used');
    await expect(enter(codeAt(secret, now + 30_000))).resolves.toBeDefined();
  });

  test('the code that confirmed it does not sign in too', async () => {
    const { secret } = access.factors.begin(ottilie, 'moor');
    access.factors.confirm(ottilie, codeAt(secret), FROM);
    await expect(enter(codeAt(secret))).rejects.toThrow('was used already');
  });

  test('of recovery codes each works once, however it is typed, and only its person’s', async () => {
    const { codes } = setUp();
    expect(new Set(codes).size).toBe(10);
    await expect(enter(codes[0]!.replaceAll('-', ' ').toUpperCase())).resolves.toBeDefined();
    await expect(enter(codes[0])).rejects.toThrow('wrong, or was used');
    expect(access.factors.rows.codesLeft(ottilie.id)).toBe(9);
    expect(access.factors.check(people.byName('Ben')!.id, codes[1]!, FROM)).toBe(false);
    expect(access.log.list(2)[1]).toMatchObject({ what: 'code-refused', person: 'Ottilie' });
    const renewed = access.factors.renewCodes(ottilie, FROM);
    await expect(enter(codes[1])).rejects.toThrow('wrong, or was used');
    await expect(enter(renewed[1])).resolves.toBeDefined();
  });

  test('codes are not guessed: ten wrong ones and nobody is let in for a while', async () => {
    const { secret } = setUp();
    for (let times = 0; times < 10; times++) {
      // Asking for the code, which counts as no try, is no way round it.
      if (times < 9) await expect(enter()).rejects.toMatchObject({ code: 'code-needed' });
      await expect(enter('12345')).rejects.toMatchObject({ code: 'code-needed' });
    }
    await expect(enter(codeAt(secret))).rejects.toMatchObject({ code: 'slowed' });
  });

  test('a wrong password tells nothing of it', async () => {
    setUp();
    await expect(
      access.signIn({ name: 'Ottilie', password: 'wrong wrong wrong', code: '1' }, FROM),
    ).rejects.toThrow('The name or the password is wrong.');
  });

  test('a link sets a new password only with a code: who made the link does not come in by it', async () => {
    const { secret } = setUp();
    const { token } = access.linkFor(ottilie.id, ottilie, FROM);
    const accept = (code?: string) =>
      access.accept({ token, name: 'Ottilie', password: 'another good one', code }, FROM);
    await expect(accept()).rejects.toMatchObject({ code: 'code-needed' });
    await expect(accept('000000')).rejects.toMatchObject({ code: 'code-needed' });
    await expect(enter(codeAt(secret))).resolves.toBeDefined();
    now += 60_000;
    await expect(accept(codeAt(secret))).resolves.toBeDefined();
  });

  test('a steward takes it away from who has lost everything; nothing of it stays', async () => {
    setUp();
    access.endFactor(ottilie.id, people.byName('Ben')!, FROM);
    await expect(enter()).resolves.toBeDefined();
    expect(access.log.list(2)[1]).toMatchObject({ what: 'factor-ended', by: 'Ben' });
    expect(data.db.value('select count(*) from recovery_code')).toBe(0);
    expect(() => access.factors.renewCodes(ottilie, FROM)).toThrow('no second factor');
  });

  test('a clock that was set back locks nobody out', async () => {
    const { secret } = setUp();
    await expect(enter(codeAt(secret))).resolves.toBeDefined();
    now -= 3600_000;
    await expect(enter(codeAt(secret, now + 30_000))).resolves.toBeDefined();
  });
});
