import { readFile, rename, writeFile } from 'node:fs/promises';
import { createCanvas, loadImage, type Image } from '@napi-rs/canvas';
import sharp, { type OutputInfo, type Sharp } from 'sharp';
import { rgbaToThumbHash } from 'thumbhash';
import { kindOf, mimeOf } from '../../core/address/kinds.ts';
import type { SitePath } from '../../core/address/path.ts';
import { dominantColours } from '../../core/picture/colours.ts';
import { hashesOf } from '../../core/picture/windows.ts';
import { TooLarge, Undecodable } from './undecodable.ts';
import { NOTHING, THUMBNAIL_SIZES, type Analysis, type Signature } from '../../core/media/analysis.ts';
import { PLAIN_TEXT, readOffice, readPdf, readText } from './document.ts';
import { DECODED, headerSize } from './inspect.ts';
import { comparable } from './comparable.ts';
import { HEIF, heifPixels, rgba } from './heif.ts';
import { LIMITS } from '../limits.ts';
import { LONGEST_WAVE, posterOf, WAVE_COLUMNS, waveformOf } from './audio-video.ts';

/**
 * Decodes a file once and derives all there is to see of it. Runs in workers.
 * @param path its name tells the kind, as its content has been checked before
 * @param thumbs where the small images go, without '-320.webp'
 * @throws Undecodable for an image that no decoder reads to its end
 */
export async function analyse(file: string, path: SitePath, thumbs: string, duration = 0): Promise<Analysis> {
  const kind = kindOf(path);
  const mime = mimeOf(path);
  if (mime === 'image/bmp' || mime === 'image/vnd.microsoft.icon') return analyseBitmap(file, thumbs);
  if (HEIF.has(mime)) return analyseHeif(file, thumbs);
  if (kind === 'image') return DECODED.has(mime) ? analysePicture(file, mime, thumbs) : NOTHING;
  if (kind === 'video') {
    const poster = await posterOf(file, duration, THUMBNAIL_SIZES[1]);
    if (!poster) return { ...NOTHING, notes: ['No image of the video could be made.'] };
    return { ...NOTHING, ...(await seen(sharp(poster), thumbs)), signature: null };
  }
  if (kind === 'audio') {
    const { wave, seconds } = (await waveformOf(file)) ?? {};
    if (!wave || seconds === undefined)
      return { ...NOTHING, notes: ['The sound could not be played through, so it has no waveform.'] };
    const cut = seconds < Math.min(duration, LONGEST_WAVE) * 0.97 - 1;
    if (cut && mime === 'audio/flac')
      throw new Undecodable('The sound ends too early. Export it again and upload the new copy.');
    return {
      ...NOTHING,
      ...(await seen(sharp(Buffer.from(waveDrawing(wave))), thumbs)),
      colours: [],
      signature: null,
      // Others only guess their length.
      notes: cut ? [`Only ${Math.round(seconds)} of ${Math.round(duration)} seconds can be played.`] : [],
    };
  }
  if (mime === 'application/pdf') {
    const { picture, text, pages, notes } = await readPdf(file, THUMBNAIL_SIZES[1]);
    const views = picture
      ? await seen(
          sharp(picture.data, { raw: { width: picture.width, height: picture.height, channels: 4 } }),
          thumbs,
        )
      : {};
    return { ...NOTHING, ...views, signature: null, pages: pages ?? null, text, notes };
  }
  if (/officedocument|opendocument|macroenabled/.test(mime)) {
    const { text, notes } = await readOffice(file).catch(() => ({
      text: '',
      notes: ['The document could not be read whole; it is kept as it is.'],
    }));
    return { ...NOTHING, text, notes };
  }
  if (PLAIN_TEXT.test(path)) return { ...NOTHING, text: await readText(file) };
  return NOTHING;
}

async function analysePicture(file: string, mime: string, thumbs: string): Promise<Analysis> {
  let size = '';
  const notes: string[] = [];
  try {
    const found = await sharp(file, { limitInputPixels: false, failOn: 'none' }).metadata();
    const height = found.pageHeight ?? found.height;
    const frames = found.pages ?? 1;
    size = `${found.width} × ${height}`;
    if (found.width * height > LIMITS.framePixels)
      throw new TooLarge(
        `The image has ${Math.round((found.width * height) / 1e6)} megapixels; the maximum is ${LIMITS.framePixels / 1e6}. Save a smaller version.`,
      );
    if (found.width * height * frames > LIMITS.allPixels)
      throw new TooLarge(
        `The image has ${frames} frames with ${Math.round((found.width * height * frames) / 1e6)} megapixels together; the maximum is ${LIMITS.allPixels / 1e6}. Save a shorter or smaller one.`,
      );
    const held = found.width * height * 2 * (found.chromaSubsampling === '4:4:4' ? found.channels : 1.5);
    if (found.format === 'jpeg' && found.isProgressive && held > (LIMITS.taskMemory - 100) * 1e6)
      throw new TooLarge(
        `The image comes in several scans of ${Math.round((found.width * height) / 1e6)} megapixels, which takes more memory than one file may. Save it without “progressive”.`,
      );
    // A drawing has no pixels of its own: it is drawn at the size that is wanted.
    const density =
      mime === 'image/svg+xml'
        ? Math.min(2400, Math.max(1, (72 * THUMBNAIL_SIZES[1]) / Math.max(found.width, height, 1)))
        : undefined;
    const open = (failOn: 'warning' | 'truncated') =>
      sharp(file, {
        limitInputPixels: LIMITS.framePixels,
        failOn,
        pages: 1,
        ...(density ? { density } : {}),
      });
    const views = await seen(open('warning').autoOrient(), thumbs).catch(async () => {
      const again = await seen(open('truncated').autoOrient(), thumbs);
      notes.push('The image is slightly damaged, but can be shown.');
      return again;
    });
    if (frames > 1 && mime === 'image/tiff') await readPages(file, frames);
    else if (frames > 1) await readFrames(file, frames, found.width * height);
    const animated = mime !== 'image/tiff';
    return { ...NOTHING, ...views, frames: animated ? frames : 1, pages: animated ? null : frames, notes };
  } catch (error) {
    if (error instanceof Undecodable) throw error;
    // The decoder's own words help nobody; what it means is that the image cannot be shown.
    throw new Undecodable(
      size === ''
        ? 'The image is damaged and can’t be read. Export it again and upload the new copy.'
        : `The image (${size}) ends too early. Export it again and upload the new copy.`,
    );
  }
}

/** Pixels of frames that are decoded together. */
const TOGETHER = 100_000_000;

/** Decodes every frame of an animation, of one channel: nothing is made of it. @throws when one of them cannot be read */
async function readFrames(file: string, frames: number, pixels: number): Promise<void> {
  const many = Math.max(1, Math.floor(TOGETHER / pixels));
  for (let page = 0; page < frames; page += many)
    await sharp(file, {
      limitInputPixels: LIMITS.allPixels,
      failOn: 'truncated',
      page,
      pages: Math.min(many, frames - page),
    })
      .extractChannel(0)
      .raw()
      .toBuffer();
}

/** Decodes every page of an image; they may differ in size and kind. @throws when one of them cannot be read */
async function readPages(file: string, pages: number): Promise<void> {
  for (let page = 0; page < pages; page++)
    await sharp(file, { limitInputPixels: LIMITS.framePixels, failOn: 'truncated', page })
      .resize(16, 16, { fit: 'fill' })
      .raw()
      .toBuffer();
}

/** Bitmaps and icons (of these the largest entry): another decoder reads them. */
async function analyseBitmap(file: string, thumbs: string): Promise<Analysis> {
  const bytes = await readFile(file);
  const size = headerSize(bytes.subarray(0, 1024));
  if (size && size.width * size.height > LIMITS.framePixels)
    throw new TooLarge(
      `The image has ${Math.round((size.width * size.height) / 1e6)} megapixels; the maximum is ${LIMITS.framePixels / 1e6}. Save a smaller version.`,
    );
  try {
    const { width, height, data } = pixelsOf(await loadImage(bytes));
    return {
      ...NOTHING,
      ...(await seen(sharp(data, { raw: { width, height, channels: 4 } }), thumbs)),
    };
  } catch {
    throw new Undecodable('The image is damaged and can’t be read. Export it again and upload the new copy.');
  }
}

/** Images as phones send them. One that is not decoded here may still show the preview that it carries. */
async function analyseHeif(file: string, thumbs: string): Promise<Analysis> {
  const pixels = await heifPixels(file);
  if (!pixels) return NOTHING;
  return { ...NOTHING, ...(await seen(sharp(pixels.data, rgba(pixels)), thumbs)) };
}

function pixelsOf(image: Image): { width: number; height: number; data: Uint8ClampedArray } {
  const { width, height } = image;
  const pen = createCanvas(width, height).getContext('2d');
  pen.drawImage(image, 0, 0);
  return { width, height, data: pen.getImageData(0, 0, width, height).data };
}

/** Thumbnails (WebP, sRGB, never enlarged), placeholder, colours and signature, all from one decode. */
async function seen(
  picture: Sharp,
  thumbs: string,
): Promise<Pick<Analysis, 'preview' | 'placeholder' | 'colours' | 'signature' | 'shades' | 'opaque'>> {
  const [small, large] = THUMBNAIL_SIZES;
  const { data, info } = await picture
    .resize({ width: large, height: large, fit: 'inside', withoutEnlargement: true })
    .toColorspace('srgb')
    .raw({ depth: 'uchar' })
    .toBuffer({ resolveWithObject: true });
  const raw = { raw: { width: info.width, height: info.height, channels: info.channels } };
  const again = () => sharp(data, raw);
  const [, look] = await Promise.all([
    writeThumbnail(again(), `${thumbs}-${large}.webp`),
    again()
      .resize({ width: small, height: small, fit: 'inside', withoutEnlargement: true })
      .raw()
      .toBuffer({ resolveWithObject: true })
      .then((thumbnail) => drawPreview(thumbnail, `${thumbs}-${small}.webp`)),
  ]);
  return { preview: true, ...look };
}

/** Writes the smaller thumbnail, and computes from it what images are known by. */
async function drawPreview(
  { data, info }: { data: Buffer; info: OutputInfo },
  to: string,
): Promise<Pick<Analysis, 'placeholder' | 'colours' | 'signature' | 'shades' | 'opaque'>> {
  const from = () =>
    sharp(data, { raw: { width: info.width, height: info.height, channels: info.channels } });
  await writeThumbnail(from(), to);
  const { data: tiny, info: tinyInfo } = await from()
    .toColorspace('srgb')
    .ensureAlpha()
    .resize(48, 48, { fit: 'inside' })
    .raw()
    .toBuffer({ resolveWithObject: true });
  const opaque: number[] = [];
  for (let i = 0; i < tiny.length; i += 4)
    if (tiny[i + 3]! > 127) opaque.push(tiny[i]!, tiny[i + 1]!, tiny[i + 2]!);
  return {
    placeholder: Buffer.from(rgbaToThumbHash(tinyInfo.width, tinyInfo.height, tiny)).toString('base64'),
    colours: dominantColours(Uint8Array.from(opaque)),
    signature: await signatureOf({ data, info }),
    ...shadesOf(data, info.channels),
  };
}

/** How many different colours an image has for its pixels, and whether nothing shines through it. */
function shadesOf(pixels: Uint8Array, channels: number): { shades: number; opaque: boolean } {
  const seen = new Set<number>();
  let opaque = true;
  for (let at = 0; at < pixels.length; at += channels) {
    const colour =
      channels < 3
        ? [pixels[at]!, pixels[at]!, pixels[at]!]
        : [pixels[at]!, pixels[at + 1]!, pixels[at + 2]!];
    seen.add((colour[0]! << 16) | (colour[1]! << 8) | colour[2]!);
    if ((channels === 2 || channels === 4) && pixels[at + channels - 1]! < 250) opaque = false;
  }
  return { shades: (seen.size * channels) / Math.max(1, pixels.length), opaque };
}

/** What an image is compared by, without small images of it. Null: it is no image, or not one that can be decoded. */
export async function signatureAlone(file: string, path: SitePath): Promise<Signature | null> {
  const mime = mimeOf(path);
  if (kindOf(path) !== 'image' || !DECODED.has(mime) || /bmp|icon/.test(mime)) return null;
  return signatureOfImage(file);
}

/** The same of an image in a file, or as bytes. */
export async function signatureOfImage(from: string | Uint8Array): Promise<Signature | null> {
  const side = THUMBNAIL_SIZES[0];
  try {
    return await signatureOf(
      await sharp(from, { limitInputPixels: LIMITS.framePixels, failOn: 'truncated' })
        .autoOrient()
        .resize({ width: side, height: side, fit: 'inside', withoutEnlargement: true })
        .toColorspace('srgb')
        .raw({ depth: 'uchar' })
        .toBuffer({ resolveWithObject: true }),
    );
  } catch {
    // A file that no decoder reads is told as unreadable elsewhere; it looks like nothing.
    return null;
  }
}

async function signatureOf(pixels: { data: Buffer; info: OutputInfo }): Promise<Signature> {
  const { picture } = await comparable(pixels);
  const { plane, chroma, width, height } = picture.picture;
  return { plane, chroma: chroma!, aspect: width / height, ...hashesOf(picture) };
}

/** Written aside and put in place whole: a reader never meets half of one. */
async function writeThumbnail(picture: Sharp, to: string): Promise<void> {
  const bytes = await picture.webp({ quality: 80, effort: 2 }).toBuffer();
  const part = `${to}.${process.pid}-${Math.random().toString(36).slice(2)}.part`;
  await writeFile(part, bytes);
  await rename(part, to);
}

function waveDrawing(wave: readonly number[]): string {
  const [width, height] = [WAVE_COLUMNS * 4, 480];
  const bars = wave
    .map((peak, column) => {
      const tall = Math.max(2, peak * (height - 40));
      return `<rect x="${column * 4}" y="${((height - tall) / 2).toFixed(1)}" width="3" height="${tall.toFixed(1)}"/>`;
    })
    .join('');
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}"><rect width="100%" height="100%" fill="#ece6d8"/><g fill="#1d6259">${bars}</g></svg>`;
}
