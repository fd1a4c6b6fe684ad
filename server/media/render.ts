import sharp, { type Sharp } from 'sharp';
import { Undecodable } from './undecodable.ts';
import { encoded, QUALITY, type Written } from './encode.ts';
import { HEIF, heifPixels, rgba } from './heif.ts';
import { LIMITS } from '../limits.ts';
import type { Rendering } from './rendering.ts';

/**
 * Writes an image for the site. Runs in workers; nothing else there writes pixels that visitors see.
 * @throws Undecodable, or what the decoder says, when it cannot be decoded
 */
export async function render(file: string, to: string, rendering: Rendering): Promise<void> {
  const { width, height, mime, sentAs = mime, quality = QUALITY } = rendering;
  const open = await opened(file, sentAs);
  const fit = await fitOf(open(), width, height);
  const made = open().resize({ width, height, fit, withoutEnlargement: true }).keepMetadata();
  await encoded(made, mime.replace('image/', '') as Written, quality).toFile(to);
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
