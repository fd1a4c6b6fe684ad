import { createRenderer, nextTick, ref, type Ref } from 'vue';
import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import type { PlanRequest, PlanView } from '../../../api/plans.ts';
import { usePlanned } from './usePlanned.ts';

/** The server's answers, given when a test says so. */
interface Asked {
  request: PlanRequest;
  answer: (plan: PlanView) => void;
  fail: (error: Error) => void;
}
const server = vi.hoisted(() => ({
  asked: [] as Asked[],
  applied: [] as string[],
  refuse: undefined as Error | undefined,
}));
vi.mock('../../api/client.ts', () => ({
  sentenceOf: (error: Error) => error.message,
  api: {
    plan: (request: PlanRequest) =>
      new Promise<PlanView>((answer, fail) => server.asked.push({ request, answer, fail })),
    apply: (id: string) => {
      if (server.refuse) return Promise.reject(server.refuse);
      server.applied.push(id);
      return Promise.resolve({});
    },
  },
}));
vi.mock('../../stores/plan.ts', () => ({ usePlan: () => ({ changed: () => Promise.resolve() }) }));

const choice: Ref<number | undefined> = ref();
const seen: (string | undefined)[] = [];
let done = 0;
let form: ReturnType<typeof usePlanned>;
let close: () => void;

/** Shown in no document: only what it does is asked for. */
const { createApp } = createRenderer<object, object>({
  patchProp: () => undefined,
  insert: () => undefined,
  remove: () => undefined,
  createElement: () => ({}),
  createText: () => ({}),
  createComment: () => ({}),
  setText: () => undefined,
  setElementText: () => undefined,
  parentNode: () => null,
  nextSibling: () => null,
});

beforeEach(() => {
  vi.useFakeTimers();
  Object.assign(server, { asked: [], applied: [], refuse: undefined });
  choice.value = undefined;
  seen.length = 0;
  done = 0;
  const app = createApp({
    setup() {
      const request = () =>
        choice.value === undefined ? undefined : ({ kind: 'sizes', itemId: choice.value } as PlanRequest);
      form = usePlanned(
        request,
        (id) => seen.push(id),
        () => done++,
      );
      return () => null;
    },
  });
  app.mount({});
  close = () => app.unmount();
});
afterEach(() => {
  close();
  vi.useRealTimers();
});

const plan = (id: string, clashes: string[] = []) =>
  ({ id, clashes: clashes.map((why) => ({ path: 'p', why })) }) as unknown as PlanView;
async function choose(value: number | undefined) {
  choice.value = value;
  await nextTick();
}
/** Until what waits for time, and all that follows from it, has happened. */
const rest = (ms = 1000) => vi.advanceTimersByTimeAsync(ms);

test('nothing is asked for while nothing is chosen; then the plan comes at once and is shown', async () => {
  await rest();
  expect([server.asked.length, form.busy.value]).toEqual([0, false]);
  await choose(1);
  expect(form.busy.value).toBe(true);
  await rest(0);
  expect(server.asked.map((one) => one.request)).toEqual([{ kind: 'sizes', itemId: 1 }]);
  server.asked[0]!.answer(plan('first'));
  await rest(0);
  expect([seen, form.busy.value, form.made.value?.id]).toEqual([['first'], false, 'first']);
});

test('of choices that follow each other quickly only the last is planned', async () => {
  await choose(1);
  await rest(0);
  server.asked[0]!.answer(plan('first'));
  await rest(0);
  for (const value of [2, 3, 4]) {
    await choose(value);
    await rest(200);
  }
  expect(server.asked).toHaveLength(1);
  await rest();
  expect(server.asked.slice(1).map((one) => one.request)).toEqual([{ kind: 'sizes', itemId: 4 }]);
});

test('a plan of an earlier choice that comes late is neither shown nor written', async () => {
  await choose(1);
  await rest(0);
  await choose(2);
  await rest(0);
  expect(server.asked).toHaveLength(2);
  server.asked[1]!.answer(plan('second'));
  await rest(0);
  server.asked[0]!.answer(plan('late'));
  await rest(0);
  expect([seen, form.made.value?.id]).toEqual([['second'], 'second']);
  await form.write();
  expect([server.applied, done]).toEqual([['second'], 1]);
});

test('nor is one that comes after another choice, before that is planned', async () => {
  await choose(1);
  await rest(0);
  await choose(2);
  server.asked[0]!.answer(plan('first'));
  for (let turn = 0; turn < 5; turn++) await Promise.resolve();
  expect([seen, form.made.value]).toEqual([[], undefined]);
  await form.write();
  expect(server.applied).toEqual([]);
  await rest(0);
  server.asked[1]!.answer(plan('second'));
  await rest(0);
  expect(seen).toEqual(['second']);
});

test('what stands in the way is told, and there is nothing to be looked at', async () => {
  await choose(1);
  await rest(0);
  server.asked[0]!.answer(plan('first', ['The name is taken.']));
  await rest(0);
  expect([form.fault.value, seen]).toEqual(['The name is taken.', [undefined]]);
  await choose(2);
  await rest();
  server.asked[1]!.fail(new Error('The server doesn’t answer.'));
  await rest(0);
  expect([form.fault.value, form.busy.value]).toEqual(['The server doesn’t answer.', false]);
});

test('when the page has moved on, the plan is computed anew and the reason stays', async () => {
  await choose(1);
  await rest(0);
  server.asked[0]!.answer(plan('first'));
  await rest(0);
  server.refuse = new Error('The page has changed.');
  const writing = form.write();
  await rest(0);
  server.asked[1]!.answer(plan('anew'));
  await writing;
  expect([done, form.fault.value, form.made.value?.id, form.busy.value]).toEqual([
    0,
    'The page has changed.',
    'anew',
    false,
  ]);
});

test('when the form is closed, what was chosen last is not planned any more', async () => {
  await choose(1);
  close();
  await rest();
  expect(server.asked).toHaveLength(0);
});
