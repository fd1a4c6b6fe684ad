import { z } from 'zod';
import type { Right } from '../../people/rights.ts';

/** What there is to be known of a kind of plan before one is computed. */
export interface KindOfPlan<Name extends string, Request extends z.ZodType> {
  readonly name: Name;
  /** Who may ask for it. */
  readonly right: Right;
  /** What only changes records and settings rests on no file: the site need not be scanned for it. */
  readonly changes: 'records' | 'files';
  /** It takes its time also with a few items. */
  readonly encodes: boolean;
  /** It can be asked for drafts too: who may bring in may ask for it of their own. */
  readonly drafts: boolean;
  /** What is asked for, with its limits; `kind` is its name. */
  readonly request: Request;
}

/** Declares a kind of plan. @param kind.request the fields of its request beside `kind` */
export function kindOfPlan<Name extends string, Fields extends z.ZodRawShape>(
  name: Name,
  kind: { right: Right; changes: 'records' | 'files'; encodes?: boolean; drafts?: boolean; request: Fields },
) {
  return {
    name,
    right: kind.right,
    changes: kind.changes,
    encodes: kind.encodes ?? false,
    drafts: kind.drafts ?? false,
    request: z.strictObject({ kind: z.literal(name), ...kind.request }),
  };
}
