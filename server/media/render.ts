import { stat } from 'node:fs/promises';
import sharp, { type Sharp } from 'sharp';
import { Undecodable } from './undecodable.ts';
import { HEIF, heifPixels, rgba } from './heif.ts';
import { LIMITS } from '../limits.ts';
import type { Rendering } from './rendering.ts';

/** Quality where none is said, and those that are tried where a file is to weigh less. */
const QUALITIES = [82, 74, 66, 58];

/**
 * Writes an image for the site. Runs in workers; nothing else there writes pixels that visitors see.
 * @throws Undecodable, or what the decoder says, when it cannot be decoded
 */
export async function render(file: string, to: string, rendering: Rendering): Promise<void> {
  const { width, height, mime, sentAs = mime, mostBytes = Infinity, quality = QUALITIES[0]! } = rendering;
  const open = await opened(file, sentAs);
  const fit = await fitOf(open(), width, height);
  for (const one of [quality, ...QUALITIES.slice(1)]) {
    const made = open().resize({ width, height, fit, withoutEnlargement: true }).keepMetadata();
    await encoded(made, mime, one).toFile(to);
    if ((await stat(to)).size <= mostBytes) return;
  }
}

/** A size that has the image's own shape, but for the rounding to whole pixels, is met exactly; any other is a box to fit into. */
async function fitOf(image: Sharp, width: number, height: number): Promise<'fill' | 'inside'> {
  const { autoOrient: whole } = await image.metadata();
  const near = (one: number, other: number) => Math.abs(one - other) <= 1;
  const same =
    near(width, (height * whole.width) / whole.height) && near(height, (width * whole.height) / whole.width);
  return same ? 'fill' : 'inside';
}

async function opened(file: string, sentAs: string): Promise<() => Sharp> {
  if (!HEIF.has(sentAs))
    return () => sharp(file, { limitInputPixels: LIMITS.framePixels, failOn: 'truncated' }).autoOrient();
  const pixels = await heifPixels(file);
  if (!pixels) throw new Undecodable('The image cannot be decoded here.');
  return () => sharp(pixels.data, rgba(pixels)).removeAlpha();
}

function encoded(image: Sharp, mime: string, quality: number): Sharp {
  switch (mime) {
    case 'image/jpeg':
      return image.jpeg({ quality, mozjpeg: true });
    case 'image/png':
      return image.png({ compressionLevel: 9, palette: quality < QUALITIES[0]!, quality });
    case 'image/webp':
      return image.webp({ quality });
    case 'image/avif':
      return image.avif({ quality: quality - 20 });
    case 'image/tiff':
      return image.tiff({ compression: 'deflate' });
    default:
      throw new Error(`nothing writes ${mime}`);
  }
}
