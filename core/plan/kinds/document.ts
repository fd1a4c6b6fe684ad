import { z } from 'zod';
import { MOST_EDITED } from '../../document/document.ts';
import { kindOfPlan } from './kind.ts';

/** The text of a document, as somebody has edited it. */
export const document = kindOfPlan('document', {
  right: 'write',
  changes: 'files',
  drafts: true,
  request: {
    path: z.string().min(1).max(2000),
    /** Of a draft, which lies nowhere on the site yet. */
    itemId: z.int().optional(),
    /** Hash of the file that was edited: another one must not be overwritten. */
    base: z.string().regex(/^[0-9a-f]{64}$/),
    /** With line feeds; of a workbook, what is changed in it, as `draftAsText` writes it. */
    text: z.string().max(MOST_EDITED),
  },
});
