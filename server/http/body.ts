import type { Context } from 'koa';
import type { z } from 'zod';
import { Fault } from '../fault.ts';

/** Bytes of a request that names many items, or brings a whole table. */
export const LARGE = 64_000_000;

/** Reads a JSON body, of at most 8 MB unless more is meant, and checks it against a schema. @throws Fault, ZodError */
export async function readBody<Schema extends z.ZodType>(
  ctx: Context,
  schema: Schema,
  most = 8_000_000,
): Promise<z.infer<Schema>> {
  if (!ctx.is('application/json'))
    throw new Fault('bad-request', 'The request is not JSON.', 'Reload the application and try again.');
  const chunks: Buffer[] = [];
  let bytes = 0;
  for await (const chunk of ctx.req as AsyncIterable<Buffer>) {
    bytes += chunk.length;
    if (bytes > most)
      throw new Fault('too-large', 'The request is too large.', 'Choose fewer items at once.');
    chunks.push(chunk);
  }
  let value: unknown;
  try {
    value = JSON.parse(Buffer.concat(chunks).toString('utf8'));
  } catch {
    throw new Fault('bad-request', 'The request is not valid JSON.', 'Reload the application and try again.');
  }
  return schema.parse(value);
}

/** A number from the path. @throws Fault 'not-found' */
export function idOf(ctx: { params: Record<string, string | undefined> }): number {
  const id = Number(ctx.params['id']);
  if (!Number.isSafeInteger(id) || id < 1)
    throw new Fault('not-found', 'There is no such address.', 'Reload the application.');
  return id;
}
