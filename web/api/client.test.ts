import { beforeEach, expect, test, vi } from 'vitest';

/** A server whose answers and events come when the test lets them. */
class FakeEvents extends EventTarget {
  static last: FakeEvents;
  onerror = () => {};
  constructor(readonly url: string) {
    super();
    FakeEvents.last = this;
  }
  close() {}
  tell(event: string, data: unknown) {
    this.dispatchEvent(Object.assign(new Event(event), { data: JSON.stringify(data) }));
  }
}

const answers: ((revision: string) => void)[] = [];

beforeEach(() => {
  vi.resetModules();
  answers.length = 0;
  vi.stubGlobal('EventSource', FakeEvents);
  vi.stubGlobal('window', new EventTarget());
  vi.stubGlobal('fetch', () => {
    return new Promise<Response>((done) =>
      answers.push((revision) => done(Response.json([], { headers: { 'Library-Revision': revision } }))),
    );
  });
});

async function followed() {
  const { api, follow } = await import('./client.ts');
  const told: string[] = [];
  follow({
    job: () => told.push('job'),
    changed: () => told.push('changed'),
    arrivals: () => told.push('arrivals'),
    people: () => told.push('people'),
    submissions: () => told.push('submissions'),
    following: () => told.push('following'),
    missed: () => told.push('missed'),
    lost: () => told.push('lost'),
  });
  return { api, told, events: FakeEvents.last };
}

test('what changed between the first answer and the first event is not missed', async () => {
  const { api, told, events } = await followed();
  const list = api.exports();
  answers[0]!('a.1');
  await list;
  events.tell('following', 'a.2');
  expect(told).toEqual(['following', 'missed']);
});

test('an answer that tells of an earlier state, and comes when events are followed already', async () => {
  const { api, told, events } = await followed();
  const list = api.exports();
  events.tell('following', 'a.2');
  expect(told).toEqual(['following']);
  answers[0]!('a.1');
  await list;
  expect(told).toEqual(['following', 'missed']);
});

test('nothing is read twice where nothing has changed; later answers are followed by events', async () => {
  const { api, told, events } = await followed();
  const first = api.exports();
  answers[0]!('a.1');
  await first;
  events.tell('following', 'a.1');
  const second = api.exports();
  events.tell('changed', 'a.2');
  answers[1]!('a.1');
  await second;
  expect(told).toEqual(['following', 'changed']);
});
