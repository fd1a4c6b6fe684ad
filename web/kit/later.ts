import { defineAsyncComponent, type Component } from 'vue';

const waiting: (() => Promise<unknown>)[] = [];
let begun = false;

/** What the first screen does not need: it comes once the window has nothing else to do, or when it is wanted first. */
export function later<Loaded>(load: () => Promise<Loaded>): () => Promise<Loaded> {
  waiting.push(load);
  if (begun) void loadTheRest();
  return load;
}

/** A part of the interface that comes later; without a connection it is tried again. */
export const laterPart = <One extends Component>(load: () => Promise<{ default: One }>): One =>
  wantedPart(later(load));

/** A heavy part of the interface that few need: it comes only when it is wanted. */
export function wantedPart<One extends Component>(load: () => Promise<{ default: One }>): One {
  return defineAsyncComponent({
    loader: load,
    onError: (_error, again, fail, attempts) => (attempts <= 3 ? setTimeout(again, 1000 * attempts) : fail()),
  }) as unknown as One;
}

const idle = () =>
  new Promise<void>((done) => {
    if ('requestIdleCallback' in window) requestIdleCallback(() => done());
    else setTimeout(done, 200);
  });

/** Loads all that comes later, one after the other; what does not come now is loaded when it is wanted. */
export async function loadTheRest(): Promise<void> {
  begun = true;
  for (let load = waiting.shift(); load; load = waiting.shift()) {
    await idle();
    await load().catch(() => undefined);
  }
}
