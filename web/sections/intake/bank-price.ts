import type { BankImageView } from '../../../api/image-bank.ts';

export const priceOf = ({ price }: Pick<BankImageView, 'price'>): string =>
  price ? `${price.amount} ${price.currency}` : 'free';
