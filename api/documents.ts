import { z } from 'zod';
import { MOST_EDITED, TEXT_KINDS } from '../core/document/document.ts';
import { ENCODINGS, LINE_ENDS } from '../core/document/text-form.ts';

export const DocumentPath = z.string().min(1).max(2000);
export const Sha = z.string().regex(/^[0-9a-f]{64}$/);

/** Somebody who has begun to edit it too. */
const Editing = z.object({ person: z.string(), savedAt: z.string() });

/** A document as it is on the site, and what the person has begun to write in it. */
export const DocumentView = z.object({
  path: z.string(),
  name: z.string(),
  /** Null: it is a page, which has no record. */
  itemId: z.int().nullable(),
  /** It is to lie there, and is not on the site yet. */
  draft: z.boolean(),
  kind: z.enum(TEXT_KINDS),
  sha256: z.string(),
  /** With line feeds; of a package '': what is written of it is what changes in it. */
  text: z.string(),
  /** Null: it is no text. */
  form: z.object({ encoding: z.enum(ENCODINGS), lineEnd: z.enum(LINE_ENDS), mixed: z.boolean() }).nullable(),
  bytes: z.int(),
  mine: z.object({ base: z.string(), text: z.string(), savedAt: z.string() }).nullable(),
  others: z.array(Editing),
});
export type DocumentView = z.infer<typeof DocumentView>;

export const UnsavedText = z.strictObject({
  path: DocumentPath,
  base: Sha,
  text: z.string().max(MOST_EDITED),
});
export const UnsavedKept = z.object({
  savedAt: z.string(),
  /** Of the file as it is on the site by now. */
  sha256: z.string(),
  others: z.array(Editing),
});
export type UnsavedKept = z.infer<typeof UnsavedKept>;

/** A change of a document's bytes, the newest first. */
export const DocumentVersion = z.object({
  entryId: z.int(),
  at: z.string(),
  person: z.string(),
  title: z.string(),
  note: z.string(),
  undone: z.boolean(),
  before: z.string(),
  after: z.string(),
  /** What changed, in words; null: one of the texts is no longer kept, or is none. */
  changes: z.string().nullable(),
});
export type DocumentVersion = z.infer<typeof DocumentVersion>;
/** How links to documents are worded; null: as usual. */
export const LinkForm = z.object({ form: z.string().nullable() });
export const KeptText = z.object({ text: z.string() });
