import { z } from 'zod';
import { BankImage, BankQuery, Price } from '../core/bank/protocol.ts';

export { BankQuery };

/** An image of the bank, with what its licence means and what of it is here already. */
export const BankImageView = BankImage.extend({
  /** What is allowed, in one sentence. */
  allowed: z.string(),
  /** This site has taken or bought it already, and may still show it. */
  bought: z.object({ receipt: z.string(), ends: z.string().nullable() }).nullable(),
  /** Items that came from it. */
  here: z.array(z.object({ id: z.int(), path: z.string() })),
});
export type BankImageView = z.infer<typeof BankImageView>;

/** Where the bank answers, as a setting of the site says; null: it says nothing. */
export const BankSetting = z.object({ address: z.string().nullable() });

/** Items of the library that show the same as an image of the bank, so that nothing is bought twice. */
export const BankAlike = z.array(z.object({ id: z.int(), path: z.string() }));

export const BankFound = z.object({
  /** How the bank calls itself. */
  bank: z.string(),
  total: z.int(),
  page: z.int(),
  images: z.array(BankImageView),
});
export type BankFound = z.infer<typeof BankFound>;

export const BankTake = z.strictObject({
  id: BankImage.shape.id,
  /** What was agreed to: another price is told first. */
  price: Price.strict().nullable(),
  folder: z.string().max(2000),
});
