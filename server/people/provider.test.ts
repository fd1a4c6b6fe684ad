import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import type { AddressInfo } from 'node:net';
import type { Server } from 'node:http';
import { ACCOUNTS, serveAccounts } from '../../demo/accounts.ts';
import { Events } from '../app/events.ts';
import { People } from '../db/people.ts';
import { setMember } from '../test/members.ts';
import { TestDatabase } from '../test/database.ts';
import { LyingProvider, type Lies } from '../test/lying-provider.ts';
import { Access } from './access.ts';
import { ProviderDoor } from './provider-door.ts';
import { Provider, type ProviderSetting } from './provider.ts';

const FROM = { address: '10.0.0.7', agent: 'test' };
const BACK = 'http://127.0.0.1:4310/sign-in/back';
const settingOf = (issuer: string): ProviderSetting => ({
  name: 'Moor accounts',
  issuer,
  clientId: 'iconomos',
  clientSecret: 'a secret between two',
  groups: { web: 'editor', pictures: 'contributor', wardens: 'steward' },
  groupsClaim: 'groups',
  scope: 'openid profile groups',
});

let data: TestDatabase;
let people: People;
let access: Access;
const doorOf = (provider: Provider) =>
  new ProviderDoor(
    { db: data.db, people, access, events: new Events(), now: () => new Date().toISOString() },
    provider,
    (id, role) => Promise.resolve(setMember({ db: data.db, people, access }, id, { role }, id)),
  );
const told = () => access.log.list(20).map(({ what, person, details }) => [what, person, details]);
beforeEach(async () => {
  data = await TestDatabase.open();
  people = new People(data.db);
  access = new Access({ db: data.db, people, events: new Events(), now: () => new Date().toISOString() });
  return () => data.close();
});

describe('a provider that tells the truth, and one that lies', () => {
  let liar: LyingProvider;
  let clock: number;
  beforeAll(async () => {
    liar = await LyingProvider.start();
  });
  afterAll(() => liar.close());
  beforeEach(() => {
    liar.lies = {};
    liar.asked = 0;
    clock = Date.now();
  });

  /** Somebody goes there and comes back. */
  const comeBy = async (
    lies: Omit<Lies, 'claims'> & { claims?: Record<string, unknown> },
    door = doorOf(new Provider(settingOf(liar.issuer), () => clock)),
    answer = (state: string) => `code=abc&state=${state}`,
  ) => {
    const { address, way } = await door.provider.begin(BACK);
    const { searchParams } = new URL(address);
    const nonce = searchParams.get('nonce')!;
    liar.lies = { ...lies, claims: { nonce, name: 'Wren Alder', groups: ['web'], ...lies.claims } };
    return door.finish(way, answer(searchParams.get('state')!), FROM, undefined);
  };

  test('who comes in for the first time is added, with the role of the group that may most', async () => {
    const first = await comeBy({ claims: { groups: ['pictures', 'web', 'unknown'] } });
    expect(first!.person).toMatchObject({ name: 'Wren Alder', role: 'editor' });
    expect(access.who(first!.token)?.person.id).toBe(first!.person.id);
    expect(told()).toEqual([
      ['signed-in', 'Wren Alder', 'Moor accounts'],
      ['role', 'Wren Alder', 'no role to editor'],
      ['provider-added', 'Wren Alder', 'Moor accounts'],
    ]);
    const again = await comeBy({ claims: { groups: ['pictures'], name: 'Wren Alder-Moss' } });
    expect(again!.person).toEqual({
      id: first!.person.id,
      name: 'Wren Alder',
      role: 'contributor',
      folders: [],
    });
    // No password leads in.
    await expect(access.signIn({ name: 'Wren Alder', password: '' }, FROM)).rejects.toThrow('wrong');
  });

  test.each<[string, Lies, string]>([
    ['is signed by somebody else', { otherKey: true }, 'not signed as it should be'],
    ['is not signed', { unsigned: true }, 'not signed as it should be'],
    ['is from somebody else', { claims: { iss: 'http://127.0.0.1:9' } }, 'from somebody else'],
    ['is for another application', { claims: { aud: 'another' } }, 'for somebody else'],
    ['is for another sign-in', { claims: { nonce: 'another' } }, 'another sign-in'],
    ['is too old', { claims: { exp: Math.floor(Date.now() / 1000) - 120 } }, 'too old'],
    ['is from the future', { claims: { nbf: Math.floor(Date.now() / 1000) + 600 } }, 'from the future'],
    ['is no answer', { tokens: 'nothing' }, 'gives no proper answer'],
    ['is endless', { tokens: `{"a":"${'x'.repeat(1_100_000)}"}` }, 'gives no proper answer'],
    ['never comes', { silent: true }, 'can’t be reached'],
  ])('nobody comes in when its answer %s', async (_what, lies, sentence) => {
    const door = doorOf(new Provider(settingOf(liar.issuer), () => clock));
    await expect(comeBy(lies, door)).rejects.toThrow(sentence);
    expect(people.rows().map(({ name }) => name)).not.toContain('Wren Alder');
    expect(told()).toEqual([
      ['provider-refused', null, expect.stringContaining('Moor accounts: ') as string],
    ]);
    // The truth is believed again.
    await expect(comeBy({}, door)).resolves.toBeDefined();
  });

  test('what calls itself otherwise is not even asked', async () => {
    liar.lies = { issuer: 'http://127.0.0.1:9' };
    const provider = new Provider(settingOf(liar.issuer), () => clock);
    await expect(provider.begin(BACK)).rejects.toThrow('does not call itself what it should');
    liar.lies = {};
    // It isn’t asked again and again.
    await expect(provider.begin(BACK)).rejects.toThrow('does not call itself what it should');
    clock += 5001;
    await expect(provider.begin(BACK)).resolves.toBeDefined();
  });

  test('an answer works once, in the browser that asked, and not after ten minutes', async () => {
    const door = doorOf(new Provider(settingOf(liar.issuer), () => clock));
    await expect(comeBy({}, door, () => 'code=abc&state=another')).rejects.toThrow('can’t be trusted');
    await expect(comeBy({}, door, () => 'error=access_denied')).rejects.toThrow('can’t be trusted');
    await expect(comeBy({}, door, (state) => `error=access_denied&state=${state}`)).rejects.toThrow(
      'You weren’t signed in',
    );
    const { way, address } = await door.provider.begin(BACK);
    const state = new URL(address).searchParams.get('state')!;
    for (const other of [undefined, 'another'])
      await expect(door.finish(other, `code=abc&state=${state}`, FROM, undefined)).rejects.toThrow(
        'begun elsewhere',
      );
    clock += 10 * 60_000 + 1;
    await expect(door.finish(way, `code=abc&state=${state}`, FROM, undefined)).rejects.toThrow(
      'too long ago',
    );
    await expect(door.finish(way, `code=abc&state=${state}`, FROM, undefined)).rejects.toThrow(
      'begun elsewhere',
    );
    expect(liar.asked).toBe(0);
  });

  test('who is in no group comes in no more, by an older session neither', async () => {
    const { token } = (await comeBy({}))!;
    await expect(comeBy({ claims: { groups: ['tea-room'] } })).rejects.toThrow('None of your groups');
    expect(access.who(token)).toBeUndefined();
    await expect(comeBy({ claims: { groups: 'web' } })).rejects.toThrow('None of your groups');
    await expect(comeBy({ claims: { sub: 'u-2', name: 'Ivo', groups: [] } })).rejects.toThrow(
      'None of your groups',
    );
    expect(people.byName('Ivo')).toBeUndefined();
  });

  test('a name is nobody’s proof: who is called like somebody here does not become them', async () => {
    await expect(comeBy({ claims: { name: 'OTTILIE' } })).rejects.toThrow(
      'There is a “OTTILIE” here already',
    );
    await expect(comeBy({ claims: { name: ' ' } })).rejects.toThrow('doesn’t say what you are called');
    await expect(comeBy({ claims: { name: 'a\u0000b' } })).rejects.toThrow('no control characters');
  });

  test('whose access has ended is not let in', async () => {
    const { person } = (await comeBy({}))!;
    setMember({ db: data.db, people, access }, person.id, { ended: true });
    await expect(comeBy({})).rejects.toThrow('Your access here has ended');
  });

  test('who is signed in connects an account, and nobody else by the same way', async () => {
    const ottilie = people.get(1)!;
    await access.accept({ token: access.firstLink(), name: 'Ottilie', password: 'peat tea at nine' }, FROM);
    const door = doorOf(new Provider(settingOf(liar.issuer)));
    const connect = async (as: typeof ottilie | undefined) => {
      const { address, way } = await door.provider.begin(BACK, ottilie.id);
      const { searchParams } = new URL(address);
      liar.lies = { claims: { nonce: searchParams.get('nonce'), name: 'O', groups: ['web'] } };
      return door.finish(way, `code=abc&state=${searchParams.get('state')}`, FROM, as);
    };
    await expect(connect(undefined)).rejects.toThrow('Somebody else has signed in');
    await expect(connect(people.byName('Ben'))).rejects.toThrow('Somebody else has signed in');
    expect(await connect(ottilie)).toBeUndefined();
    await expect(connect(ottilie)).rejects.toThrow('connected with somebody here already');
    // The only steward stays one, whatever the groups say.
    expect((await comeBy({}, door))!.person).toEqual({ ...ottilie, role: 'steward' });
    door.disconnect(ottilie, FROM);
    expect(door.people.has(ottilie.id)).toBe(false);
  });

  test('who has no password keeps the way in', async () => {
    const door = doorOf(new Provider(settingOf(liar.issuer)));
    const { person } = (await comeBy({}, door))!;
    expect(() => door.disconnect(person, FROM)).toThrow('with Moor accounts only');
  });

  test('an address that everybody on the way can read is refused', () => {
    for (const issuer of ['http://accounts.example', 'ftp://127.0.0.1'])
      expect(() => new Provider(settingOf(issuer)), issuer).toThrow('is not HTTPS');
    expect(() => new Provider(settingOf('https://accounts.example'))).not.toThrow();
  });
});

describe('the simulated provider', () => {
  let server: Server;
  let issuer: string;
  beforeAll(async () => {
    // Its address is a part of what it says.
    const probe = serveAccounts({
      issuer: 'http://127.0.0.1:1',
      clientId: 'x',
      clientSecret: 'x',
      redirectUris: [],
    });
    await new Promise<void>((done) => probe.listen(0, '127.0.0.1', done));
    const { port } = probe.address() as AddressInfo;
    await new Promise((done) => probe.close(done));
    issuer = `http://127.0.0.1:${port}`;
    server = serveAccounts({ ...settingOf(issuer), issuer, redirectUris: [BACK] });
    await new Promise<void>((done) => server.listen(port, '127.0.0.1', done));
  });
  afterAll(() => {
    server.closeAllConnections();
    server.close();
  });

  /** As a browser goes there, chooses somebody and is sent back. */
  async function choose(address: string, account: string): Promise<string> {
    const cookies = new Map<string, string>();
    let [url, init]: [string, RequestInit] = [address, {}];
    for (let steps = 0; steps < 10; steps++) {
      const cookie = [...cookies].map((pair) => pair.join('=')).join('; ');
      const answer = await fetch(url, { ...init, redirect: 'manual', headers: { Cookie: cookie } });
      for (const line of answer.headers.getSetCookie()) {
        const [, name, value] = /^([^=]+)=([^;]*)/.exec(line)!;
        cookies.set(name!, value!);
      }
      const next = answer.headers.get('location');
      if (next?.startsWith(BACK)) return next.slice(BACK.length + 1);
      if (next) [url, init] = [new URL(next, url).href, {}];
      else init = { method: 'POST', body: new URLSearchParams({ account }) };
    }
    throw new Error(`It led nowhere: ${url}`);
  }

  test('vouches for who is chosen there', async () => {
    const groups = { website: 'editor', photographers: 'contributor' } as const;
    const door = doorOf(new Provider({ ...settingOf(issuer), groups }));
    const come = async ({ id }: { id: string }) => {
      const { address, way } = await door.provider.begin(BACK);
      return door.finish(way, await choose(address, id), FROM, undefined);
    };
    expect((await come(ACCOUNTS[0]!))!.person).toMatchObject({ name: ACCOUNTS[0]!.name, role: 'editor' });
    expect((await come(ACCOUNTS[1]!))!.person).toMatchObject({
      name: ACCOUNTS[1]!.name,
      role: 'contributor',
    });
    await expect(come(ACCOUNTS[2]!)).rejects.toThrow('None of your groups');
  });

  test('gives nothing to who knows another secret', async () => {
    const door = doorOf(new Provider({ ...settingOf(issuer), clientSecret: 'another' }));
    const { address, way } = await door.provider.begin(BACK);
    await expect(door.finish(way, await choose(address, ACCOUNTS[0]!.id), FROM, undefined)).rejects.toThrow();
    expect(people.byName(ACCOUNTS[0]!.name)).toBeUndefined();
  });
});
