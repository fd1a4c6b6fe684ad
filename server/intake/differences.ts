import sharp from 'sharp';
import { verify, type Alike } from '../../core/picture/alike.ts';
import { differenceOf, OVERLAY, type Differing } from '../../core/picture/difference.ts';
import { Matcher } from '../../core/picture/matcher.ts';
import { chromaOf, PLANE, planeOf } from '../../core/picture/signature.ts';
import { hashesOf, Prepared, WHOLE, type Window } from '../../core/picture/windows.ts';
import { LIMITS } from './limits.ts';

/** Longer side, in pixels, of what is laid over each other. */
const SIDE = 1024;

/**
 * Where two pictures differ that show the same, whatever their size and crop and however they are turned. Null: they show different things.
 * @throws when one of them cannot be decoded
 */
export async function differences(one: string, other: string): Promise<Differing | null> {
  const [a, b] = [await decoded(one), await decoded(other)];
  const matcher = new Matcher();
  for (const { picture } of [a, b]) matcher.add(hashesOf(picture), true);
  let best: { alike: Alike; first: typeof a; second: typeof a; exchanged: boolean } | undefined;
  for (const candidate of matcher.candidates([0])) {
    const [first, second] = candidate.one === 0 ? [a, b] : [b, a];
    const alike = verify(first.picture, second.picture, candidate);
    if (!alike || (best && best.alike.sure >= alike.sure)) continue;
    // Which of the two has the part that the other shows whole.
    const holder = alike.exchanged ? second : first;
    best = { alike, first: holder, second: holder === a ? b : a, exchanged: holder !== a };
  }
  if (!best) return null;
  const { alike, first, second, exchanged } = best;
  const { window } = alike;
  const found = differenceOf(
    await overlay(first.bytes, window),
    await overlay(second.bytes, WHOLE),
    window,
    alike.orientation,
  );
  // Told of the two in the order in which they were asked for.
  return {
    ...found,
    marks: exchanged ? found.marks.map((mark) => ({ one: mark.other, other: mark.one })) : found.marks,
    lighter: exchanged ? -found.lighter : found.lighter,
    exchanged,
    orientation: alike.orientation,
  };
}

async function decoded(file: string) {
  const { data, info } = await sharp(file, { limitInputPixels: LIMITS.framePixels, failOn: 'truncated' })
    .autoOrient()
    .resize({ width: SIDE, height: SIDE, fit: 'inside', withoutEnlargement: true })
    .flatten({ background: '#ffffff' })
    .toColorspace('srgb')
    .removeAlpha()
    .png({ compressionLevel: 0 })
    .toBuffer({ resolveWithObject: true });
  const rgb = await raw(data, PLANE);
  const { width, height } = info;
  return {
    bytes: { data, width, height },
    picture: new Prepared({ plane: planeOf(rgb), chroma: chromaOf(rgb), width, height }),
  };
}

function overlay(
  { data, width, height }: { data: Buffer; width: number; height: number },
  { x, y, w, h }: Window,
) {
  const left = Math.min(width - 1, Math.round(x * width));
  const top = Math.min(height - 1, Math.round(y * height));
  const part = {
    left,
    top,
    width: Math.max(1, Math.min(width - left, Math.round(w * width))),
    height: Math.max(1, Math.min(height - top, Math.round(h * height))),
  };
  return raw(data, OVERLAY, part);
}

/** Levels of a picture or a part of it, its shape ignored: side x side x 3. */
function raw(
  data: Buffer,
  side: number,
  part?: { left: number; top: number; width: number; height: number },
) {
  const picture = part ? sharp(data).extract(part) : sharp(data);
  return picture.toColorspace('srgb').resize(side, side, { fit: 'fill' }).raw().toBuffer();
}
