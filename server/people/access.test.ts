import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { Events } from '../app/events.ts';
import { People } from '../db/people.ts';
import { IDLE, LONGEST } from '../db/sessions.ts';
import { TestDatabase } from '../test/database.ts';
import { inviteMember, setMember } from '../test/members.ts';
import { Access } from './access.ts';
import { Slowing } from './slowing.ts';

const FROM = { address: '10.0.0.7', agent: 'test' };
const GOOD = 'peat tea at nine';
const DAY = 24 * 3600_000;

describe('the door', () => {
  let data: TestDatabase;
  let people: People;
  let access: Access;
  let now: number;
  let waited: number[];
  beforeEach(async () => {
    data = await TestDatabase.open();
    people = new People(data.db);
    now = Date.parse('2026-03-01T09:00:00Z');
    waited = [];
    const slowing = new Slowing((milliseconds) => {
      waited.push(milliseconds);
      return Promise.resolve();
    });
    access = new Access(
      { db: data.db, people, events: new Events(), now: () => new Date(now).toISOString() },
      () => now,
      slowing,
    );
  });
  afterEach(() => data.close());

  const set = (name: string, password = GOOD) =>
    access.accept(
      { token: access.linkFor(people.byName(name)!.id, people.get(1)!, FROM).token, name, password },
      FROM,
    );
  const told = () => access.log.list(100).map(({ what, person, by }) => [what, person, by]);

  test('the first link sets name and password of the steward, once', async () => {
    expect(access.isSet).toBe(false);
    const link = access.firstLink();
    expect(access.invited(link, FROM)).toMatchObject({ name: 'Ottilie', role: 'steward' });
    const { person, token } = await access.accept(
      { token: link, name: ' Ottilie  Marrow ', password: GOOD },
      FROM,
    );
    expect(person).toMatchObject({ name: 'Ottilie Marrow', role: 'steward' });
    expect(access.isSet).toBe(true);
    expect(access.who(token)?.person.name).toBe('Ottilie Marrow');
    await expect(access.accept({ token: link, name: 'Mallory', password: GOOD }, FROM)).rejects.toThrow(
      'doesn’t work any more',
    );
    expect(told().map(([what]) => what)).toEqual(['invitation-refused', 'invitation-used']);
  });

  test('a link works until its time is over, and not when another was made', async () => {
    const first = inviteMember({ db: data.db, people, access }, 'Ines', 'contributor');
    const second = access.linkFor(first.person.id, people.get(1)!, FROM);
    expect(() => access.invited(first.token, FROM)).toThrow('doesn’t work any more');
    now += 7 * DAY - 1;
    expect(access.invited(second.token, FROM).name).toBe('Ines');
    now += 2;
    await expect(
      access.accept({ token: second.token, name: 'Ines', password: GOOD }, FROM),
    ).rejects.toThrow();
    expect(people.password(first.person.id)).toBeNull();
  });

  test('used twice at the same moment, a link sets one password', async () => {
    const { token } = inviteMember({ db: data.db, people, access }, 'Ines', 'contributor');
    const both = await Promise.allSettled(
      ['one password here', 'another password'].map((password) =>
        access.accept({ token, name: 'Ines', password }, FROM),
      ),
    );
    expect(both.map((one) => one.status).sort()).toEqual(['fulfilled', 'rejected']);
  });

  test('a wrong password, an unknown name and one without a password are told the same', async () => {
    await set('Ottilie');
    const says = async (name: string, password: string) =>
      access.signIn({ name, password }, FROM).then(
        () => 'let in',
        (error: Error) => error.message,
      );
    const wrong = await says('Ottilie', 'something else');
    expect(wrong).toBe('The name or the password is wrong.');
    expect(await says('Nobody', GOOD)).toBe(wrong);
    expect(await says('Ben', GOOD)).toBe(wrong);
    expect(await says('Ben', '')).toBe(wrong);
    expect(await says(' ottilie ', GOOD)).toBe('let in');
    // What was typed as a name may have been a password: it is not kept.
    expect(JSON.stringify(access.log.list(100))).not.toContain('Nobody');
  });

  test('an unknown name takes as long as a known one', async () => {
    await set('Ottilie');
    const time = async (name: string) => {
      const start = process.cpuUsage();
      await access.signIn({ name, password: 'wrong wrong wrong' }, FROM).catch(() => undefined);
      const { user, system } = process.cpuUsage(start);
      return user + system;
    };
    // Work of this process, not of the clock; in turn, and the least of each: what else goes on is only ever added.
    let [known, unknown] = [Infinity, Infinity];
    for (let round = 0; round < 9; round++) {
      known = Math.min(known, await time('Ottilie'));
      unknown = Math.min(unknown, await time('Nobody'));
    }
    expect(unknown / known).toBeGreaterThan(0.5);
    expect(unknown / known).toBeLessThan(2);
  });

  test('whoever guesses waits longer and longer, and then is kept out; also with the right password', async () => {
    await set('Ottilie');
    for (let times = 0; times < 10; times++)
      await expect(access.signIn({ name: 'Ottilie', password: `guess ${times}` }, FROM)).rejects.toThrow(
        'wrong',
      );
    expect(waited).toEqual([250, 500, 1000, 2000, 4000, 8000, 8000]);
    await expect(access.signIn({ name: 'Ottilie', password: GOOD }, FROM)).rejects.toThrow(
      'too many wrong passwords',
    );
    // Not from elsewhere either, but others come in.
    await expect(
      access.signIn({ name: 'OTTILIE', password: GOOD }, { ...FROM, address: '10.0.0.8' }),
    ).rejects.toThrow('too many');
    await set('Ben');
    await expect(access.signIn({ name: 'Ben', password: GOOD }, FROM)).resolves.toBeDefined();
    expect(told().filter(([what]) => what === 'slowed')).toHaveLength(2);
  });

  test('a thousand at once are no way round it', async () => {
    await set('Ottilie');
    const all = await Promise.allSettled(
      Array.from({ length: 1000 }, (_, at) =>
        access.signIn({ name: 'Ottilie', password: at === 900 ? GOOD : `guess ${at}` }, FROM),
      ),
    );
    expect(all.filter((one) => one.status === 'fulfilled')).toEqual([]);
    const looked = all.filter((one) => one.status === 'rejected' && String(one.reason).includes('is wrong'));
    expect(looked.length).toBeLessThanOrEqual(10);
  });

  test('from one address, names are not tried one after the other', async () => {
    let kept = 0;
    for (let at = 0; at < 60; at++)
      await access
        .signIn({ name: `name ${at}`, password: 'wrong wrong wrong' }, FROM)
        .catch((error: Error) => (kept += /too many/.test(error.message) ? 1 : 0));
    expect(kept).toBe(10);
  });

  test('a session ends when nobody used it for twelve hours, and after fourteen days in any case', async () => {
    const { token } = await set('Ottilie');
    now += IDLE - 1;
    expect(access.who(token)).toBeDefined();
    now += IDLE;
    expect(access.who(token)).toBeUndefined();
    const { token: used } = access.start(1, FROM);
    for (let passed = 0; passed < LONGEST - 6 * 3600_000; passed += 6 * 3600_000) {
      now += 6 * 3600_000;
      expect(access.who(used)).toBeDefined();
    }
    now += 6 * 3600_000;
    expect(access.who(used)).toBeUndefined();
  });

  test('only a hash of the token is kept', async () => {
    const { token } = await set('Ottilie');
    const dump = JSON.stringify(data.db.all('select * from session'));
    expect(dump).not.toContain(token);
    expect(dump).toContain('token_hash');
  });

  test('with another role comes another token; the old one works for what was on its way, and then no more', async () => {
    const { token } = await set('Ben');
    setMember({ db: data.db, people, access }, 2, { role: 'reader' }, 1);
    const first = access.who(token)!;
    expect(first.person.role).toBe('reader');
    expect(first.token).toBeDefined();
    const second = access.who(token)!;
    expect(second.token).toBeUndefined();
    now += 31_000;
    expect(access.who(token)).toBeUndefined();
    expect(access.who(first.token!)?.person.name).toBe('Ben');
  });

  test('another password ends all other sessions, and needs the one before', async () => {
    const { token } = await set('Ottilie');
    const { token: elsewhere } = await access.signIn({ name: 'Ottilie', password: GOOD }, FROM);
    const signedIn = access.who(token)!;
    await expect(
      access.changePassword(signedIn, 'wrong wrong wrong', 'other words here', FROM),
    ).rejects.toThrow('current password is wrong');
    await expect(access.changePassword(signedIn, GOOD, 'short', FROM)).rejects.toThrow('at least 12');
    await access.changePassword(signedIn, GOOD, 'other words here', FROM);
    expect(access.who(token)).toBeDefined();
    expect(access.who(elsewhere)).toBeUndefined();
    await expect(access.signIn({ name: 'Ottilie', password: GOOD }, FROM)).rejects.toThrow('wrong');
    await expect(
      access.signIn({ name: 'Ottilie', password: 'other words here' }, FROM),
    ).resolves.toBeDefined();
  });

  test('whoever has ended is out at once, keeps the name, and can come back', async () => {
    const { token } = await set('Ben');
    setMember({ db: data.db, people, access }, 2, { ended: true }, 1);
    expect(access.who(token)).toBeUndefined();
    await expect(access.signIn({ name: 'Ben', password: GOOD }, FROM)).rejects.toThrow('wrong');
    expect(() => inviteMember({ db: data.db, people, access }, 'ben', 'reader')).toThrow(
      'There is a “ben” already',
    );
    expect(() => access.linkFor(2, people.get(1)!, FROM)).toThrow('no such person');
    setMember({ db: data.db, people, access }, 2, { ended: false }, 1);
    await expect(access.signIn({ name: 'Ben', password: GOOD }, FROM)).resolves.toBeDefined();
    expect(told()).toContainEqual(['ended', 'Ben', 'Ottilie']);
  });

  test('two stewards cannot take each other’s rights away', () => {
    setMember({ db: data.db, people, access }, 2, { role: 'steward' }, 1);
    setMember({ db: data.db, people, access }, 1, { role: 'editor' }, 2);
    for (const to of [{ role: 'reader' }, { ended: true }])
      expect(() => setMember({ db: data.db, people, access }, 2, to, 1)).toThrow('Nobody would be left');
    expect(people.get(2)?.role).toBe('steward');
  });

  test('names that are none are refused with a sentence', () => {
    const invite = (name: string) => () => inviteMember({ db: data.db, people, access }, name, 'reader');
    for (const name of ['', '   ', 'x'.repeat(81), 'a\u0000b', 'a\u202eb'])
      expect(invite(name)).toThrow('characters');
    expect(invite('OTTILIE')).toThrow('already');
    expect(people.all()).toHaveLength(2);
  });
});
