import { randomBytes } from 'node:crypto';
import { existsSync } from 'node:fs';
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { join } from 'node:path';
import sharp from 'sharp';
import { BankQuery, PAGE, type BankImage, type BankOrder, type Terms } from '../../core/bank/protocol.ts';
import { Chance } from '../chance.ts';
import { subjects, type Colour, type Subject } from './pictures.ts';

/** The demo's image bank: made-up makers, prices and images, painted when they are asked for. */
export const BANK = 'Moorlight Images';
const MAKERS = ['Adela Quickbeam', 'Osric Fallow', 'Petra Windle', 'Jonas Ambersley', 'Runa Thackett'];
const SIZES = [
  [4000, 3000],
  [3000, 2000],
  [2400, 1600],
  [2000, 3000],
  [1600, 1600],
  [1600, 1067],
] as const;
/** Milliseconds of a day; longest sides of what is shown. */
const DAY = 86_400_000;
const SIDES = { small: 360, large: 1280 } as const;

interface Offer {
  image: BankImage;
  subject: Subject;
}

function termsOf(at: number, maker: string, today: number): Pick<BankImage, 'terms' | 'price'> {
  const credit = `${maker} / ${BANK}`;
  const ends = (days: number) => new Date(today + days * DAY).toISOString().slice(0, 10);
  switch (at % 4) {
    case 0:
      return { terms: { kind: 'free', ends: null, credit: null }, price: null };
    case 1:
      return { terms: { kind: 'credit', ends: null, credit }, price: null };
    case 2:
      return {
        terms: { kind: 'site', ends: ends(365), credit: null },
        price: { amount: `${12 + (at % 5) * 6}.00`, currency: 'EUR' },
      };
    default:
      return { terms: { kind: 'editorial', ends: null, credit }, price: null };
  }
}

/** What the bank has. @param today the day from which its licences run */
export function catalogue(seed: string, today = Date.now()): Offer[] {
  const chance = new Chance(`${seed} bank`);
  return subjects(seed).map((subject, at) => {
    const maker = chance.pick(MAKERS);
    const [width, height] = chance.pick(SIZES);
    const { title, keywords } = subject;
    return {
      subject,
      image: {
        id: `ML-${20100 + at * 7}`,
        title,
        keywords,
        maker,
        width,
        height,
        ...termsOf(at, maker, today),
      },
    };
  });
}

const shapeOf = ({ width, height }: BankImage) =>
  width === height ? 'square' : width > height ? 'landscape' : 'portrait';

/** Those that answer a query: every word must begin a word of title, keywords or maker. */
export function found(offers: readonly Offer[], { words, shape, colour, licence }: BankQuery): Offer[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  return offers.filter(({ image, subject }) => {
    const has = `${image.title} ${image.keywords.join(' ')} ${image.maker}`.toLowerCase().split(/\s+/);
    return (
      wanted.every((word) => has.some((one) => one.startsWith(word))) &&
      (shape === undefined || shapeOf(image) === shape) &&
      (colour === undefined || subject.colours.includes(colour as Colour)) &&
      (licence === undefined || image.terms.kind === licence)
    );
  });
}

/** Speaks version 1 of the protocol (docs/services.md). Pictures and orders are kept in the folder. */
export function serveBank(folder: string, seed: string): Server {
  const offers = catalogue(seed);
  const byId = new Map(offers.map((offer) => [offer.image.id, offer]));
  /** Orders by the key of who ordered, so that one that is asked for again is the same. */
  const orders = new Map<string, BankOrder & { id: string }>();

  async function painted(id: string, width: number, height: number): Promise<Buffer> {
    const file = join(folder, `${id}-${width}.jpg`);
    if (existsSync(file)) return readFile(file);
    const { subject, image } = byId.get(id)!;
    const bytes = await sharp(Buffer.from(subject.draw(image.width, image.height)), { unlimited: true })
      .resize(width, height, { fit: 'fill' })
      .flatten({ background: '#ffffff' })
      .jpeg({ quality: 88 })
      .withExif({ IFD0: { Artist: image.maker, Copyright: `© ${image.maker}, ${BANK}` } })
      .toBuffer();
    await mkdir(folder, { recursive: true });
    const unfinished = `${file}.${randomBytes(4).toString('hex')}`;
    await writeFile(unfinished, bytes);
    await rename(unfinished, file);
    return bytes;
  }

  async function answer(request: IncomingMessage, to: ServerResponse): Promise<void> {
    const url = new URL(request.url ?? '/', 'http://bank');
    const says = (status: number, value: object) =>
      void to.writeHead(status, { 'Content-Type': 'application/json' }).end(JSON.stringify(value));
    const sends = (bytes: Buffer) =>
      void to.writeHead(200, { 'Content-Type': 'image/jpeg', 'Content-Length': bytes.length }).end(bytes);
    const none = () => says(404, { error: 'There is no such image.' });
    const [, version, what, id, part] = url.pathname.split('/');
    if (version !== 'v1') return none();
    if (!what) return says(200, { name: BANK, version: 1 });
    if (what === 'images' && !id) {
      const query = BankQuery.safeParse(Object.fromEntries(url.searchParams));
      if (!query.success) return says(400, { error: 'This is no query of the protocol.' });
      const all = found(offers, query.data);
      const from = (query.data.page - 1) * PAGE;
      const images = all.slice(from, from + PAGE).map(({ image }) => image);
      return says(200, { total: all.length, page: query.data.page, images });
    }
    if (what === 'orders' && part === 'file') {
      const order = [...orders.values()].find(({ receipt }) => receipt === id);
      if (!order) return none();
      const { width, height } = byId.get(order.id)!.image;
      return sends(await painted(order.id, width, height));
    }
    const offer = what === 'images' ? byId.get(id ?? '') : undefined;
    if (!offer) return none();
    const { image } = offer;
    if (!part) return says(200, image);
    if (part === 'small' || part === 'large') {
      const scale = Math.min(1, SIDES[part] / Math.max(image.width, image.height));
      return sends(
        await painted(image.id, Math.round(image.width * scale), Math.round(image.height * scale)),
      );
    }
    if (part === 'orders' && request.method === 'POST') {
      let body = '';
      for await (const piece of request)
        if ((body += String(piece)).length > 1000) return says(413, { error: 'Too long.' });
      const { key } = JSON.parse(body) as { key: string };
      const kept = orders.get(key) ?? {
        receipt: `R-${48_000 + orders.size}`,
        terms: image.terms satisfies Terms,
        file: `${image.id}.jpg`,
        id: image.id,
      };
      orders.set(key, kept);
      const { id: _id, ...said } = kept;
      return says(200, said);
    }
    return none();
  }

  return createServer((request, to) => {
    answer(request, to).catch((error: Error) => {
      if (!to.headersSent) to.writeHead(500, { 'Content-Type': 'application/json' });
      to.end(JSON.stringify({ error: error.message }));
    });
  });
}
