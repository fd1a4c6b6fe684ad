import type { Sharp } from 'sharp';
import type { Format } from '../../core/picture/recipe/recipe.ts';

/** Formats that are written: those of recipes, and one that only stays what it is. */
export type Written = Format | 'tiff';

/** Quality where none is said. */
export const QUALITY = 82;
/** Nothing is encoded with less: beyond it a file gets lighter only by looking worse. */
export const LEAST_QUALITY = 50;

/** An image as it is written. Below the usual quality a PNG gets a palette, as that is what makes it lighter. */
export function encoded(image: Sharp, format: Written, quality: number): Sharp {
  switch (format) {
    case 'jpeg':
      return image.jpeg({ quality, mozjpeg: true });
    case 'png':
      return image.png({ compressionLevel: 9, palette: quality < QUALITY, quality });
    case 'webp':
      return image.webp({ quality });
    case 'avif':
      return image.avif({ quality: Math.max(1, quality - 20) });
    case 'tiff':
      return image.tiff({ compression: 'deflate' });
  }
}
