import { z } from 'zod';
import { Place, PlacedLook } from '../../reference/schema.ts';
import { classes, folder } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Other words, another look, a poster or captions of one placement; what is left out stays. */
export const placement = kindOfPlan('placement', {
  right: 'place',
  changes: 'files',
  request: {
    ...Place.shape,
    alt: z.string().max(2000).nullable().optional(),
    title: z.string().max(2000).nullable().optional(),
    linkText: z.string().trim().min(1).max(2000).optional(),
    caption: z.string().max(5000).nullable().optional(),
    shownWidth: z.int().min(16).max(10_000).nullable().optional(),
    classes: classes.optional(),
    ours: PlacedLook.optional(),
    posterId: z.int().nullable().optional(),
    captions: z
      .strictObject({
        path: folder,
        language: z.string().regex(/^[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8})*$/),
        label: z.string().trim().min(1).max(80),
      })
      .nullable()
      .optional(),
  },
});
