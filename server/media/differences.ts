import sharp from 'sharp';
import { laidOver, type Fit } from '../../core/picture/alike.ts';
import { differenceOf, isWhole, OVERLAY, type Differing } from '../../core/picture/difference.ts';
import { candidatesOf } from '../../core/picture/matcher.ts';
import { WHOLE, type Window } from '../../core/picture/windows.ts';
import { comparable } from './comparable.ts';
import { LIMITS } from '../limits.ts';

/** Below this correlation nothing is laid over anything. */
const LEAST = 0.5;
/** Longer side, in pixels, of what is laid over each other. */
const SIDE = 1024;

/**
 * Where two images differ that show the same, whatever their size and crop and however they are turned. Null: they show different things.
 * @throws when one of them cannot be decoded
 */
export async function differences(one: string, other: string): Promise<Differing | null> {
  const [a, b] = [await decoded(one), await decoded(other)];
  if (a.picture.windows.length === 0 || b.picture.windows.length === 0) return null;
  // A person has chosen them: as a whole they are tried in any case.
  const whole = { window: 0, orientation: 0, bits: 0, one: 0, other: 1 };
  let best: { fit: Fit; holder: typeof a } | undefined;
  for (const candidate of [...candidatesOf(a.picture, b.picture), whole]) {
    const [first, second] = candidate.one === 0 ? [a, b] : [b, a];
    const fit = laidOver(first.picture, second.picture, candidate);
    if (!fit || fit.score < LEAST || (best && best.fit.score >= fit.score)) continue;
    // Which of the two has the part that the other shows whole.
    best = { fit, holder: fit.exchanged ? second : first };
  }
  if (!best) return null;
  const { fit, holder: first } = best;
  const second = first === a ? b : a;
  const exchanged = first === b;
  const window = isWhole(fit.window) ? WHOLE : fit.window;
  const found = differenceOf(
    await overlay(first.bytes, window),
    await overlay(second.bytes, WHOLE),
    window,
    fit.orientation,
  );
  // Told of the two in the order in which they were asked for.
  return {
    ...found,
    marks: exchanged ? found.marks.map((mark) => ({ one: mark.other, other: mark.one })) : found.marks,
    lighter: exchanged ? -found.lighter : found.lighter,
    exchanged,
    orientation: fit.orientation,
  };
}

async function decoded(file: string) {
  const pixels = await sharp(file, { limitInputPixels: LIMITS.framePixels, failOn: 'truncated' })
    .autoOrient()
    .resize({ width: SIDE, height: SIDE, fit: 'inside', withoutEnlargement: true })
    .toColorspace('srgb')
    .raw({ depth: 'uchar' })
    .toBuffer({ resolveWithObject: true });
  const { width, height, channels } = pixels.info;
  const { picture, background } = await comparable(pixels);
  const data = await sharp(pixels.data, { raw: { width, height, channels } })
    .flatten({ background })
    .removeAlpha()
    .png({ compressionLevel: 0 })
    .toBuffer();
  return { bytes: { data, width, height }, picture };
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

/** Levels of an image or a part of it, its shape ignored: side x side x 3. */
function raw(
  data: Buffer,
  side: number,
  part?: { left: number; top: number; width: number; height: number },
) {
  const picture = part ? sharp(data).extract(part) : sharp(data);
  return picture.toColorspace('srgb').resize(side, side, { fit: 'fill' }).raw().toBuffer();
}
