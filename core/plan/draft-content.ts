import { z } from 'zod';
import type { RecordStep } from './plan.ts';

/** The bytes of a draft, which no file of the site has, and what they are. */
const DraftContent = z.strictObject({
  sha256: z.string().regex(/^[0-9a-f]{64}$/),
  bytes: z.int().min(0),
  /** In pixels; null: it has none. */
  width: z.int().nullable(),
  height: z.int().nullable(),
});
export type DraftContent = z.infer<typeof DraftContent>;

/** As a record step says it. */
export const writeContent = ({ sha256, bytes, width, height }: DraftContent): string =>
  JSON.stringify({ sha256, bytes, width, height });

/** @throws ZodError for anything else */
export const readContent = (text: string): DraftContent => DraftContent.parse(JSON.parse(text));

/** Whether a step gives a record another file of the site: its bytes lie there, and are not kept beside it. */
export const isOfFile = ({ after }: Pick<RecordStep, 'after'>): boolean => after.state !== undefined;

/** Hashes of the bytes that drafts get by a step, and of those that they had. */
export const contentsOf = ({ before, after }: Pick<RecordStep, 'before' | 'after'>): string[] =>
  (isOfFile({ after }) ? [] : [before.content, after.content]).flatMap((text) =>
    text === undefined ? [] : [readContent(text).sha256],
  );
