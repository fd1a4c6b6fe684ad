import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { z } from 'zod';
import { BODIES, type BodyName } from '../../api/bodies.ts';
import { RIGHTS } from '../../core/people/rights.ts';
import { serve, type Served } from '../test/served.ts';
import { closeSites, openSite, smallSite } from '../test/site.ts';
import { servicesOf } from './app.ts';
import type { Route } from './route.ts';
import { routesOf } from './routes/index.ts';

let served: Served;
let routes: Route[];

beforeAll(async () => {
  const site = await openSite(await smallSite());
  served = await serve(site);
  routes = routesOf(servicesOf({ site, log: served.log, servedAt: served.served, hosts: [] }));
});
afterAll(async () => {
  served.close();
  await closeSites();
});

type Def = { type: string } & Record<string, unknown>;
const defOf = (schema: unknown) => (schema as { _zod: { def: Def } })._zod.def;

/** Every schema within a schema, with where it stands. */
function* within(schema: unknown, at = ''): Generator<{ def: Def; at: string; schema: unknown }> {
  const def = defOf(schema);
  yield { def, at, schema };
  const inner: [string, unknown][] = [];
  if (def.type === 'object')
    inner.push(
      ...Object.entries(def['shape'] as object).map(([key, one]) => [`.${key}`, one] as [string, unknown]),
    );
  if (def.type === 'array') inner.push(['[]', def['element']]);
  if (def.type === 'union')
    inner.push(...(def['options'] as unknown[]).map((one, i) => [`|${i}`, one] as [string, unknown]));
  if (def.type === 'record') inner.push(['{}', def['valueType']]);
  if (def['innerType']) inner.push(['', def['innerType']]);
  if (def.type === 'pipe') inner.push(['', def['in']]);
  for (const [key, one] of inner) yield* within(one, at + key);
}

describe('every route', () => {
  test('names its right, its schemas and what it answers, and no two are the same', () => {
    expect(routes.length).toBeGreaterThan(70);
    for (const route of routes) {
      const name = `${route.method} ${route.path}`;
      expect(Object.keys(RIGHTS), name).toContain(route.right);
      expect(defOf(route.params).type, name).toBe('object');
      expect(defOf(route.query).type, name).toBe('object');
      const params = Object.keys(defOf(route.params)['shape'] as object).sort();
      expect(params, name).toEqual([...route.path.matchAll(/:(\w+)/g)].map(([, key]) => key!).sort());
      if (typeof route.answer === 'string') expect(['file', 'own'], name).toContain(route.answer);
      else expect(defOf(route.answer).type, name).toBeTypeOf('string');
      if (route.body !== null) expect(Object.keys(BODIES), name).toContain(route.body);
      if (route.method === 'get') expect(route.body, name).toBeNull();
    }
    const names = routes.map(({ method, path }) => `${method} ${path}`);
    expect(new Set(names).size).toBe(names.length);
  });

  test('and every body is one that a route takes', () => {
    const taken = new Set(routes.map((route) => route.body));
    expect(Object.keys(BODIES).filter((name) => !taken.has(name as BodyName))).toEqual([]);
  });

  test('knows all keys that it takes, however deep', () => {
    const open: string[] = [];
    const look = (name: string, schema: z.ZodType) => {
      for (const { def, at } of within(schema))
        if (def.type === 'object' && (!def['catchall'] || defOf(def['catchall']).type !== 'never'))
          open.push(`${name}${at}`);
    };
    for (const [name, schema] of Object.entries(BODIES)) look(name, schema);
    for (const route of routes) {
      look(`${route.path} query`, route.query);
      look(`${route.path} params`, route.params);
    }
    expect(open).toEqual([]);
  });

  test('refuses the same number twice in a list of items', () => {
    const blind: string[] = [];
    for (const [name, schema] of Object.entries(BODIES))
      for (const { def, at, schema: one } of within(schema)) {
        if (def.type !== 'array' || !['number', 'int'].includes(defOf(def['element']).type)) continue;
        const twice = (one as z.ZodType).safeParse([7, 7]);
        if (twice.success || !/twice/.test(twice.error.issues[0]!.message)) blind.push(`${name}${at}`);
      }
    expect(blind).toEqual([]);
  });

  test('asked in a way that it does not take, answers with a sentence', async () => {
    const sentence = { code: 'bad-request', message: expect.stringMatching(/\.$/) as string };
    for (const route of routes) {
      if (route.answer === 'own') continue;
      const path = route.path
        .replace(/:(sha)\b/, 'f'.repeat(64))
        .replace(':size', '320')
        .replace(':form', 'nginx')
        .replace(/:\w+/g, '1');
      const name = `${route.method} ${route.path}`;
      const ask = (query: string, body?: unknown) =>
        served.ask(route.method.toUpperCase(), `/api${path}${query}`, body);
      const unknownKey = await ask('?nobody-knows=1', route.body === null ? undefined : {});
      expect(unknownKey.status, name).toBe(400);
      expect(await unknownKey.json(), name).toMatchObject(sentence);
      for (const key of Object.keys(defOf(route.query)['shape'] as object)) {
        const twice = await ask(`?${key}=1&${key}=2`, route.body === null ? undefined : {});
        expect([twice.status, await twice.json()], `${name} with ${key} twice`).toMatchObject([
          400,
          sentence,
        ]);
      }
      if (/:(id|other|number)\b/.test(route.path) && !/(plans|jobs)/.test(route.path)) {
        const wrong = await served.ask(
          route.method.toUpperCase(),
          `/api${route.path.replace(/:\w+/g, 'x')}`,
          route.body === null ? undefined : {},
        );
        expect([wrong.status, await wrong.json()], name).toMatchObject([404, { code: 'not-found' }]);
      }
      if (route.body === null) continue;
      for (const body of [{ 'nobody-knows': 1 }, [], 7, 'text', null]) {
        const answer = await ask('', body);
        expect([answer.status, await answer.json()], `${name} with ${JSON.stringify(body)}`).toMatchObject([
          400,
          sentence,
        ]);
      }
    }
  });
});

test('an address that no route has is told so', async () => {
  const answer = await served.ask('GET', '/api/nothing');
  expect([answer.status, await answer.json()]).toMatchObject([404, { code: 'not-found' }]);
});
