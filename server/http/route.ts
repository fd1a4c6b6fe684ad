import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import Router from '@koa/router';
import type { Context } from 'koa';
import parseRange from 'range-parser';
import { z } from 'zod';
import type { Body, BodyName } from '../../api/bodies.ts';
import { aRole, may, RIGHTS, whoMay, type Right } from '../../core/people/rights.ts';
import { Fault } from '../fault.ts';
import type { Person } from '../db/people.ts';
import { readBody } from './body.ts';
import type { State } from './context.ts';
import { largeJson } from './large-json.ts';
import { withoutHidden } from './named-items.ts';
import { needPerson } from './session.ts';

/** A file as it lies on the disk: whoever reads a part of it may ask for that part (RFC 9110, 14). */
export class StoredFile {
  constructor(readonly path: string) {}
}

/** Bytes as an answer: a file, an image, a download. */
export interface FileAnswer {
  body: Readable | Buffer | StoredFile;
  /** MIME type. */
  type: string;
  /** In bytes, where it is known. */
  length?: number;
  /** Saved under this name, never shown. */
  download?: string;
  /** Cache-Control; default: not kept. */
  cache?: string;
  /** Content-Security-Policy, where that of the application is not strict enough. */
  policy?: string;
}

/** JSON that has been put into words already, or is to be put into words in parts. */
export class Json<Value> {
  private constructor(
    readonly body: Readable | Buffer,
    /** What it says, as far as it is known as a value. */
    readonly value: Value | undefined,
  ) {}
  /** An answer of any length: it is written in parts, and others go on between them. */
  static large<Value extends object>(value: Value): Json<Value> {
    return new Json(largeJson(value), value);
  }
  /** UTF-8, as a thread has put it together. */
  static written(bytes: Uint8Array): Json<never> {
    return new Json<never>(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength), undefined);
  }
}

/** `file`: bytes; `own`: the handler speaks with the other side by itself (a stream of events, a protocol of its own). */
export type AnswerKind = z.ZodType | 'file' | 'own';
/** What is answered is not written to any more. */
type Sent<Value> = Value extends readonly (infer One)[]
  ? readonly Sent<One>[]
  : Value extends object
    ? { readonly [Key in keyof Value]: Sent<Value[Key]> }
    : Value;
type Answered<Answer extends AnswerKind> = Answer extends z.ZodType
  ? Sent<z.output<Answer>> | Json<Sent<z.output<Answer>>>
  : Answer extends 'file'
    ? FileAnswer
    : void;

export interface Request<Params, Query, Read> {
  params: Params;
  query: Query;
  body: Read;
  /** Who asks; of routes by which people sign in: nobody yet. */
  person: Person;
  /** For what only HTTP knows: that the other side has gone, a body that is no JSON. */
  ctx: Context;
}

type Method = 'get' | 'post' | 'put' | 'patch' | 'delete' | 'all';

/** One way to reach the server: all that is to be known of it before it runs. */
export interface Route {
  readonly method: Method;
  /** Below /api, as the router writes it: '/items/:id'. */
  readonly path: string;
  readonly right: Right;
  readonly params: z.ZodType;
  readonly query: z.ZodType;
  /** The name of the schema of its JSON body; null: it takes none. */
  readonly body: BodyName | null;
  readonly answer: AnswerKind;
  /** Runs it for a request that has a person. */
  run(ctx: Context & { state: State }, checkAnswers: boolean): Promise<void>;
}

const NOTHING = z.strictObject({});
/** The number of an item, an entry, a file in a path. */
export const Id = z.strictObject({ id: z.coerce.number().int().min(1).max(Number.MAX_SAFE_INTEGER) });
/** Nothing needs to be answered. */
export const Done = z.strictObject({});

/**
 * Declares a route. What it does not take is refused: keys that its schemas do not know, a body where it has none.
 * `most`: bytes of its body; `handle`: answers what `answer` says.
 */
export function defineRoute<
  Answer extends AnswerKind,
  Params extends z.ZodType = typeof NOTHING,
  Query extends z.ZodType = typeof NOTHING,
  Name extends BodyName | null = null,
>(route: {
  method: Method;
  path: string;
  right: Right;
  params?: Params;
  query?: Query;
  body?: Name;
  most?: number;
  answer: Answer;
  handle(
    request: Request<z.output<Params>, z.output<Query>, Name extends BodyName ? Body<Name> : undefined>,
  ): Answered<Answer> | Promise<Answered<Answer>>;
}): Route {
  const { method, path, right, answer } = route;
  const params = route.params ?? NOTHING;
  const query = route.query ?? NOTHING;
  const body = route.body ?? null;
  return {
    method,
    path,
    right,
    params,
    query,
    body,
    answer,
    async run(ctx, checkAnswers) {
      // Who signs in is nobody yet.
      if (right !== 'sign-in') needRight(needPerson(ctx), right);
      const called = params.safeParse(method === 'all' ? {} : ctx['params']);
      if (!called.success)
        throw new Fault('not-found', 'There is no such address.', 'Reload the application.');
      const asked = {
        params: called.data as z.output<Params>,
        query: (method === 'all' ? {} : query.parse(ctx.query)) as z.output<Query>,
        body: (body === null ? undefined : await readBody(ctx, body, route.most)) as never,
      };
      const { hiddenOf } = ctx.state;
      const result = await route.handle({
        ...(hiddenOf ? withoutHidden(path, asked, hiddenOf) : asked),
        person: ctx.state.person as Person,
        ctx,
      });
      if (answer === 'own') return;
      if (answer === 'file') await answerFile(ctx, result as FileAnswer);
      else answerJson(ctx, result, checkAnswers ? answer : undefined);
    },
  };
}

const lowered = (text: string) => text[0]!.toLowerCase() + text.slice(1);

/** @throws Fault 'forbidden' */
export function needRight(person: Person, right: Right): void {
  if (!may(person.role, right))
    throw new Fault(
      'forbidden',
      `As ${aRole(person.role)} you can’t do this: ${lowered(RIGHTS[right])}.`,
      `Ask ${whoMay(right)}.`,
    );
}

async function answerFile(ctx: Context, file: FileAnswer): Promise<void> {
  if (file.download !== undefined) ctx.attachment(file.download);
  if (file.cache !== undefined) ctx.set('Cache-Control', file.cache);
  if (file.policy !== undefined) ctx.set('Content-Security-Policy', file.policy);
  if (file.length !== undefined) ctx.length = file.length;
  ctx.type = file.type;
  if (file.body instanceof StoredFile) await answerStored(ctx, file.body.path);
  else ctx.body = file.body;
}

/** One range is answered; several, or one that makes no sense, get the whole file. */
async function answerStored(ctx: Context, path: string): Promise<void> {
  const { size } = await stat(path);
  ctx.set('Accept-Ranges', 'bytes');
  const asked = ctx.get('Range');
  const ranges = asked === '' ? -2 : parseRange(size, asked, { combine: true });
  if (ranges === -1) {
    ctx.status = 416;
    ctx.set('Content-Range', `bytes */${size}`);
    ctx.body = Buffer.alloc(0);
    return;
  }
  const range = ranges !== -2 && ranges.type === 'bytes' && ranges.length === 1 ? ranges[0] : undefined;
  if (range) {
    ctx.status = 206;
    ctx.set('Content-Range', `bytes ${range.start}-${range.end}/${size}`);
  }
  ctx.length = range ? range.end - range.start + 1 : size;
  ctx.body = createReadStream(path, range);
}

function answerJson(ctx: Context, result: unknown, check: z.ZodType | undefined): void {
  if (check) {
    const value =
      result instanceof Json
        ? (result.value ?? (JSON.parse((result.body as Buffer).toString()) as unknown))
        : result;
    // As the other side gets it.
    const read = check.safeParse(JSON.parse(JSON.stringify(value)));
    if (!read.success)
      throw new Error(`${ctx.method} ${ctx.path} answers otherwise than it says: ${read.error.message}`);
  }
  ctx.type = 'application/json';
  ctx.body = result instanceof Json ? result.body : JSON.stringify(result);
}

/** Takes up routes. This is the only way to add one. */
export function routerOf(routes: readonly Route[], checkAnswers: boolean): Router<State> {
  const router = new Router<State>({ prefix: '/api' });
  for (const route of routes)
    router[route.method](route.path, (ctx) => route.run(ctx as Context & { state: State }, checkAnswers));
  router.all('/{*rest}', () => {
    throw new Fault('not-found', 'There is no such address.', 'Reload the application.');
  });
  return router;
}
