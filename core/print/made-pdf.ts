import { z } from 'zod';
import type { SitePath } from '../address/path.ts';

/** How a PDF was made: kept with its record, so that it can be made anew when its document has changed. */
export interface MadePdf {
  /** The item that it was made from, or the page by its path, and the hash of its bytes then. */
  from: number | SitePath;
  sha256: string;
}
const Kept = z.strictObject({
  pdf: z.strictObject({
    from: z.union([z.int(), z.string().min(1)]),
    sha256: z.string().regex(/^[0-9a-f]{64}$/),
  }),
  /** The bytes that came out: another file at the same address was not made so. */
  made: z.string(),
});

/** As records keep it, in JSON, where images keep how they were made of their originals. */
export const writeMadePdf = ({ from, sha256 }: MadePdf, made: string): string =>
  JSON.stringify({ pdf: { from, sha256 }, made });

/** @param sha256 of the file as it is @returns undefined when it was not made here, or its bytes have come from elsewhere since */
export function readMadePdf(text: string, sha256: string): MadePdf | undefined {
  if (!isMadePdf(text)) return undefined;
  const { pdf, made } = Kept.parse(JSON.parse(text));
  return made === sha256 ? pdf : undefined;
}
export const isMadePdf = (text: string): boolean => text.startsWith('{"pdf":');
