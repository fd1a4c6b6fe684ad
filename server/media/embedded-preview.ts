import { rm, writeFile } from 'node:fs/promises';
import { kindOf } from '../../core/address/kinds.ts';
import type { SitePath } from '../../core/address/path.ts';
import type { Site } from '../app/site.ts';
import type { Analysis } from '../../core/media/analysis.ts';
import { LIMITS } from '../limits.ts';

/**
 * What an image of a format that is not decoded here (raw, HEIC, layered) shows all the same: the preview that its
 * camera or program has put into it. Everything that has been derived already stays as it is.
 */
export async function withEmbedded(
  site: Pick<Site, 'data' | 'pool' | 'metadata'>,
  file: string,
  path: SitePath,
  sha256: string,
  derived: Analysis,
): Promise<Analysis> {
  if (derived.preview || kindOf(path) !== 'image') return derived;
  const found = await site.metadata.embeddedPicture(file);
  if (!found) return { ...derived, notes: [...derived.notes, 'No preview can be made of this format.'] };
  const copy = site.data.workFile();
  try {
    await writeFile(copy, found);
    const thumbs = site.data.thumbnailStem(sha256);
    const shown = await site.pool.run(
      'analyse',
      { file: copy, path: 'preview.jpg', thumbs, duration: 0 },
      { limit: LIMITS.checkTime },
    );
    if ('undecodable' in shown)
      return { ...derived, notes: [...derived.notes, 'No preview can be made of it.'] };
    const { preview, placeholder, colours, signature, shades, opaque } = shown;
    return {
      ...derived,
      preview,
      placeholder,
      colours,
      signature,
      shades,
      opaque,
      notes: [
        ...derived.notes,
        'This format is not decoded here: what is shown is the preview inside the file.',
      ],
    };
  } finally {
    await rm(copy, { force: true });
  }
}
