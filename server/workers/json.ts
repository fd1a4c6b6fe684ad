import type { z } from 'zod';
import { ThreadClient } from './thread.ts';

/** So many elements of an array are handed over at once. */
export const PART = 1000;
/** Some elements of an array, and where that is in the value. */
export interface Part {
  path: readonly string[];
  items: unknown[];
}
/** What the thread is asked: to read JSON, and to check it as the body of a request when that is named; then for its parts, one after the other. */
export type JsonQuestion = { blocks: readonly Uint8Array[]; body?: string } | { key: number };
export type JsonAnswer =
  | { invalid: true }
  | { issues: z.core.$ZodIssue[] }
  /** The value without the contents of its long arrays. */
  | { value: unknown; key: number; parts: number }
  | { part: Part | undefined };

const thread = new ThreadClient<JsonQuestion, JsonAnswer>('json.js', undefined, {
  resourceLimits: { maxOldGenerationSizeMb: 1024 },
});

/**
 * Reads a large text of JSON on a thread of its own: its long arrays come in parts, with room for others between them.
 * @param blocks its bytes in UTF-8, parted anywhere; they are taken over
 * @param body the name of the body of a request as which it is checked
 * @returns its value; or that it is no JSON, or the first issue that the check found
 * @throws Error with code 'ERR_WORKER_OUT_OF_MEMORY'
 */
export async function readLargeJson(
  blocks: readonly Uint8Array<ArrayBuffer>[],
  body?: string,
): Promise<{ value: unknown } | { invalid: true } | { issues: z.core.$ZodIssue[] }> {
  const answer = await thread.ask(
    body === undefined ? { blocks } : { blocks, body },
    blocks.map((one) => one.buffer),
  );
  if ('invalid' in answer || 'issues' in answer) return answer;
  if (!('value' in answer)) throw new Error('JSON was answered with a part');
  for (let at = 0; at < answer.parts; at++) {
    await new Promise(setImmediate);
    const told = await thread.ask({ key: answer.key });
    if (!('part' in told) || !told.part) throw new Error('a part of JSON is missing');
    const { path, items } = told.part;
    const list = path.reduce(
      (value, key) => (value as Record<string, unknown>)[key],
      answer.value,
    ) as unknown[];
    for (const item of items) list.push(item);
  }
  return { value: answer.value };
}
