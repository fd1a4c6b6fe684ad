import { subjectOf, type NoSubject, type Subject } from '../../core/picture/subject.ts';
import { opened } from './prepare.ts';

/** Pixels of the longer side that are looked at: enough for a box, quick to reckon with. */
const LOOKED_AT = 320;

/** What stands on the plain ground of an image, upright. @throws Undecodable */
export async function subject(file: string, mime: string): Promise<Subject | NoSubject> {
  const { open } = await opened(file, mime);
  const { data, info } = await open()
    .resize({ width: LOOKED_AT, height: LOOKED_AT, fit: 'inside', withoutEnlargement: true })
    .toColourspace('srgb')
    .raw({ depth: 'uchar' })
    .toBuffer({ resolveWithObject: true });
  return subjectOf(data, info.width, info.height, info.channels as 3 | 4);
}
