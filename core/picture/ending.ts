import { extensionOf } from '../address/path.ts';

/** Endings by format; a file keeps its own where that is one of its format’s. */
const ENDINGS: Record<string, readonly [string, ...string[]]> = {
  'image/jpeg': ['.jpg', '.jpeg', '.jpe', '.jfif'],
  'image/png': ['.png'],
  'image/webp': ['.webp'],
  'image/avif': ['.avif'],
  'image/tiff': ['.tif', '.tiff'],
  'image/svg+xml': ['.svg'],
};

/** The ending that an image gets when it is written in a format that is written here, by its media type. */
export function endingFor(name: string, mime: string): string {
  const known = ENDINGS[mime]!;
  return known.includes(extensionOf(name).toLowerCase()) ? extensionOf(name) : known[0];
}
