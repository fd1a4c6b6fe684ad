import { readFile } from 'node:fs/promises';

/** Pixels of an image that is decoded here at most: it is held three times over meanwhile. */
const MOST_PIXELS = 60_000_000;

/** Media types that are decoded here, and that hardly any browser shows. */
export const HEIF: ReadonlySet<string> = new Set(['image/heic', 'image/heif']);

export interface HeifPixels {
  /** RGBA, upright: what turns or mirrors it is applied. */
  data: Uint8ClampedArray;
  width: number;
  height: number;
}

/** How such pixels are handed to the image library. */
export const rgba = ({ width, height }: { width: number; height: number }) => ({
  raw: { width, height, channels: 4 as const },
});

/**
 * Decodes the main image of a HEIF file (ISO/IEC 23008-12), in a worker.
 * @returns undefined when it cannot be decoded here: its codec is another one, it is too large, or damaged
 */
export async function heifPixels(file: string): Promise<HeifPixels | undefined> {
  const { default: library } = await import('libheif-js/wasm-bundle.js');
  const images = new library.HeifDecoder().decode(await readFile(file)) ?? [];
  try {
    const image = images.find((one) => one.is_primary()) ?? images[0];
    const [width, height] = image ? [image.get_width(), image.get_height()] : [0, 0];
    if (!image || width < 1 || height < 1 || width * height > MOST_PIXELS) return undefined;
    const into = { data: new Uint8ClampedArray(width * height * 4), width, height };
    const filled = await new Promise<boolean>((done) => image.display(into, (one) => done(one !== null)));
    return filled ? into : undefined;
  } finally {
    for (const one of images) one.free();
  }
}
