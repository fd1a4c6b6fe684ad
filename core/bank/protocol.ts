import { z } from 'zod';

/**
 * What an image bank says over HTTP, version 1 (docs/services.md). The server reads it and the stand-in speaks it, so that both hold to the
 * same words; what is longer than it may be, or of another form, is no answer.
 */
export const LICENCE_KINDS = ['free', 'credit', 'site', 'editorial'] as const;
export type LicenceKind = (typeof LICENCE_KINDS)[number];
export const SHAPES = ['landscape', 'portrait', 'square'] as const;
export const COLOURS = [
  'red',
  'orange',
  'yellow',
  'green',
  'blue',
  'purple',
  'brown',
  'grey',
  'white',
  'black',
] as const;

const text = (longest: number) => z.string().trim().max(longest);
const day = z.iso.date();

export const Terms = z.object({
  kind: z.enum(LICENCE_KINDS),
  /** The last day on which it may be shown; null: it does not end. */
  ends: day.nullable(),
  /** What has to stand near the image; null: nothing. */
  credit: text(300).nullable(),
});
export type Terms = z.infer<typeof Terms>;

/** Amounts are decimals: '12.50'. */
export const Price = z.object({
  amount: z.string().regex(/^\d{1,7}(\.\d\d)?$/),
  currency: z.string().regex(/^[A-Z]{3}$/),
});

const number = z.string().regex(/^[\w-]{1,64}$/);
export const BankImage = z.object({
  id: number,
  title: text(300),
  keywords: z.array(text(80)).max(100),
  maker: text(200),
  width: z.int().min(1).max(100_000),
  height: z.int().min(1).max(100_000),
  terms: Terms,
  /** Null: it costs nothing. */
  price: Price.nullable(),
});
export type BankImage = z.infer<typeof BankImage>;

export const PAGE = 40;
export const BankPage = z.object({
  total: z.int().min(0),
  page: z.int().min(1),
  images: z.array(BankImage).max(PAGE),
});
export type BankPage = z.infer<typeof BankPage>;

/** What was bought or taken: the receipt's number, the terms that hold for it, and how the file is called. */
export const BankOrder = z.object({ receipt: number, terms: Terms, file: text(200).min(1) });
export type BankOrder = z.infer<typeof BankOrder>;

/** What is known of the bank itself. */
export const BankFacts = z.object({ name: text(80).min(1), version: z.literal(1) });
export type BankFacts = z.infer<typeof BankFacts>;

/** What is looked for. Undefined: any. */
export const BankQuery = z.strictObject({
  words: z.string().trim().max(200).default(''),
  shape: z.enum(SHAPES).optional(),
  colour: z.enum(COLOURS).optional(),
  licence: z.enum(LICENCE_KINDS).optional(),
  page: z.coerce.number().int().min(1).max(1000).default(1),
});
export type BankQuery = z.infer<typeof BankQuery>;
