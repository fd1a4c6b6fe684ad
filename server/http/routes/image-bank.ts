import { z } from 'zod';
import { BankAlike, BankFound, BankQuery, BankSetting } from '../../../api/image-bank.ts';
import { Fetched } from '../../../api/intake.ts';
import { BankImage, type BankOrder } from '../../../core/bank/protocol.ts';
import { bankSource, termsInWords } from '../../../core/bank/terms.ts';
import { Fault } from '../../fault.ts';
import { takeFromBank } from '../../intake/from-bank.ts';
import type { Services } from '../context.ts';
import { defineRoute, type Route } from '../route.ts';
import { needFolder } from '../need-folder.ts';
import { whileWaited } from '../waiting.ts';

/** Items that are told as showing the same. */
const MOST_ALIKE = 8;
const boughtOf = (order: BankOrder | undefined) =>
  order ? { receipt: order.receipt, ends: order.terms.ends } : null;

/** Finding images in the bank that whoever runs the server has named. */
export const imageBankRoutes = ({ site, bank: chosen }: Services): Route[] => {
  const bank = () => {
    const { current } = chosen;
    if (current) return current;
    throw new Fault(
      'not-found',
      'No image bank is set up here.',
      'A steward can enter its address in Intake.',
    );
  };
  return [
    /** What a setting says; null: nothing. */
    defineRoute({
      method: 'get',
      path: '/image-bank',
      right: 'settings',
      answer: BankSetting,
      handle: () => ({ address: site.serviceSettings.address('image-bank') }),
    }),

    defineRoute({
      method: 'get',
      path: '/image-bank/images',
      right: 'bring-in',
      query: BankQuery,
      answer: BankFound,
      handle: async ({ query, ctx }) => {
        const signal = whileWaited(ctx);
        const { name } = await bank().facts(signal);
        const { total, page, images } = await bank().search(query, signal);
        const orders = site.bankOrders.standing(
          name,
          images.map(({ id }) => id),
          site.now().slice(0, 10),
        );
        const here = site.items.withSources(images.map((image) => bankSource(name, image)));
        return {
          bank: name,
          total,
          page,
          images: images.map((image) => ({
            ...image,
            allowed: termsInWords(orders.get(image.id)?.terms ?? image.terms),
            bought: boughtOf(orders.get(image.id)),
            here: here.get(bankSource(name, image)) ?? [],
          })),
        };
      },
    }),

    /** How one looks: by way of this server, so that windows ask nothing of others. */
    defineRoute({
      method: 'get',
      path: '/image-bank/images/:id/look',
      right: 'bring-in',
      params: z.strictObject({ id: BankImage.shape.id }),
      query: z.strictObject({ size: z.enum(['small', 'large']).default('small') }),
      answer: 'file',
      handle: async ({ params, query, ctx }) => {
        const { type, bytes } = await bank().picture(params.id, query.size, whileWaited(ctx));
        return {
          type,
          length: bytes.length,
          cache: 'private, max-age=3600',
          policy: "default-src 'none'; sandbox",
          body: bytes,
        };
      },
    }),

    /** What of the library shows the same, as far as its small picture tells. */
    defineRoute({
      method: 'get',
      path: '/image-bank/images/:id/alike',
      right: 'bring-in',
      params: z.strictObject({ id: BankImage.shape.id }),
      answer: BankAlike,
      handle: async ({ params, ctx }) => {
        const { bytes } = await bank().picture(params.id, 'small', whileWaited(ctx));
        const seen = await site.pool.run('other-signature', { bytes });
        if (!seen) return [];
        const { aspect, ...rest } = seen;
        const alike = await site.matching.like({ ...rest, width: Math.round(aspect * 1000), height: 1000 });
        return alike
          .slice(0, MOST_ALIKE)
          .flatMap((sha256) => site.items.withHash(sha256))
          .map(({ id, path }) => ({ id, path }));
      },
    }),

    defineRoute({
      method: 'post',
      path: '/image-bank/take',
      right: 'bring-in',
      body: 'BankTake',
      answer: Fetched,
      handle: async ({ body, person, ctx }) => {
        needFolder(body.folder);
        return { id: await takeFromBank(site, bank(), body, person, whileWaited(ctx)) };
      },
    }),
  ];
};
