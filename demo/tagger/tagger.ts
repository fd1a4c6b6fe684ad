import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { join } from 'node:path';
import sharp from 'sharp';
import type { z } from 'zod';
import { DETAIL_SIDE, lookOf } from '../../core/tagging/computed.ts';
import {
  ExamplesTold,
  ImageKey,
  LabelsAsked,
  SENT_PIXELS,
  type Label,
  type TaggerFacts,
} from '../../core/tagging/protocol.ts';
import { voteOn, type Example } from '../../core/tagging/vote.ts';
import { Memory, type Known } from './memory.ts';

/** The demo's tagging service: it computes what images look like, and votes by those that people have tagged. */
export const TAGGER = 'Tarnside Labels';
const FACTS: TaggerFacts = { name: TAGGER, version: 1, language: 'en', learns: true };
/** Bytes of an image, and of what is asked, at most. */
const MOST_BYTES = 5_000_000;
const MOST_ASKED = 200_000;

class Refused extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

/** What is computed of an image. @throws Refused for what is none, or is larger than it may be */
export async function lookAt(bytes: Uint8Array): Promise<Pick<Known, 'features' | 'computed'>> {
  try {
    const image = sharp(bytes, { failOn: 'truncated' });
    const { width, height, format } = await image.metadata();
    if (format !== 'jpeg') throw new Refused(415, 'Images are sent as JPEG.');
    if (width * height > SENT_PIXELS) throw new Refused(413, 'The image has more than a megapixel.');
    const rgb = await image
      .resize(DETAIL_SIDE, DETAIL_SIDE, { fit: 'fill' })
      .toColorspace('srgb')
      .removeAlpha()
      .raw()
      .toBuffer();
    return lookOf(rgb, width / height);
  } catch (error) {
    if (error instanceof Refused) throw error;
    throw new Refused(422, 'This is no image.');
  }
}

/** What is on an image: what follows from its pixels, and what the tagged images that look like it are tagged with. */
export function labelsOf(key: string, known: ReadonlyMap<string, Known>): Label[] {
  const { features, computed } = known.get(key)!;
  const examples: Example<string>[] = [];
  for (const [other, { features, labels }] of known)
    if (other !== key && labels.length > 0) examples.push({ key: other, features, labels });
  const all = new Map<string, Label>(computed.map((one) => [one.label.toLowerCase(), one]));
  for (const voted of voteOn(features, examples)) {
    const there = all.get(voted.label.toLowerCase());
    if (!there || there.confidence < voted.confidence) all.set(voted.label.toLowerCase(), voted);
  }
  return [...all.values()].sort((one, other) => other.confidence - one.confidence);
}

/** Speaks version 1 of the protocol (docs/services.md). What it knows is kept in the folder. */
export function serveTagger(folder: string): Server {
  const memory = new Memory(
    join(folder, 'known.jsonl'),
    (error) => void process.stderr.write(`${TAGGER} could not be saved: ${error.message}\n`),
  );
  const { known } = memory;

  async function body(request: IncomingMessage, most: number): Promise<Buffer> {
    const parts: Buffer[] = [];
    let bytes = 0;
    for await (const part of request as AsyncIterable<Buffer>) {
      if ((bytes += part.length) > most) throw new Refused(413, 'That is too long.');
      parts.push(part);
    }
    return Buffer.concat(parts);
  }
  async function asked<Schema extends z.ZodType>(
    request: IncomingMessage,
    schema: Schema,
  ): Promise<z.infer<Schema>> {
    const text = (await body(request, MOST_ASKED)).toString('utf8');
    let said: unknown;
    try {
      said = JSON.parse(text);
    } catch {
      throw new Refused(400, 'That is no JSON.');
    }
    const read = schema.safeParse(said);
    if (!read.success) throw new Refused(400, 'That is not of the protocol.');
    return read.data;
  }

  async function answer(request: IncomingMessage): Promise<object> {
    await memory.open();
    const [, version, what, key, more] = new URL(request.url ?? '/', 'http://tagger').pathname.split('/');
    if (version !== 'v1' || more !== undefined) throw new Refused(404, 'There is nothing here.');
    if (!what && request.method === 'GET') return FACTS;
    if (what === 'images' && request.method === 'PUT' && ImageKey.safeParse(key).success) {
      memory.keep(key!, await lookAt(await body(request, MOST_BYTES)));
      return { labels: labelsOf(key!, known) };
    }
    if (what === 'labels' && request.method === 'POST') {
      const { keys } = await asked(request, LabelsAsked);
      return {
        images: keys
          .filter((one) => known.has(one))
          .map((one) => ({ key: one, labels: labelsOf(one, known) })),
        unknown: keys.filter((one) => !known.has(one)),
      };
    }
    if (what === 'examples' && request.method === 'POST') {
      const { examples } = await asked(request, ExamplesTold);
      const unknown = examples.filter(({ key: one, labels }) => !memory.label(one, labels));
      return { unknown: unknown.map(({ key: one }) => one) };
    }
    throw new Refused(404, 'There is nothing here.');
  }

  return createServer((request, to: ServerResponse) => {
    const says = (status: number, value: object) =>
      void to.writeHead(status, { 'Content-Type': 'application/json' }).end(JSON.stringify(value));
    answer(request).then(
      (value) => says(200, value),
      (error: Error) => says(error instanceof Refused ? error.status : 500, { error: error.message }),
    );
  });
}
