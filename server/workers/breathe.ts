import type { Breathe } from '../../core/paced.ts';

/** Milliseconds after which others have their turn. */
const TURN = 8;
let began = performance.now();

/**
 * For long loops (core/paced.ts): others go on when this turn of the thread has lasted so long, whatever was done in it. One clock for
 * all: several loops that follow each other share their turn.
 */
export const breathe: Breathe = () => {
  if (performance.now() - began < TURN) return undefined;
  return new Promise((resume) =>
    setImmediate(() => {
      began = performance.now();
      resume();
    }),
  );
};
