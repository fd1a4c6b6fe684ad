import { z } from 'zod';

export const TWICE = 'An item is listed twice';
/** Numbers of items, each once. @param most how many there may be */
export const idsUpTo = (most: number) =>
  z
    .array(z.int())
    .min(1)
    .max(most)
    .refine((list) => new Set(list).size === list.length, TWICE);
