import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import sharp from 'sharp';
import { createWorker, type Worker } from 'tesseract.js';

const require = createRequire(import.meta.url);
/** The trained data lies in a package: nothing is fetched. */
const DATA = join(dirname(require.resolve('@tesseract.js-data/eng/package.json')), '4.0.0_best_int');
/** Pixels of the longer side: letters of a headline are then high enough, and an image takes about a second. */
const SIDE = 1600;
/** Percent; below it, letters are mostly stars and gravel. */
const SURE = 70;

let starting: Promise<Worker> | undefined;

/** Text read in an image, line by line; only what the reader is sure of and what holds words. '' for none. */
export async function recognise(file: string): Promise<string> {
  starting ??= createWorker('eng', 1, { langPath: DATA, cacheMethod: 'none', gzip: true });
  const reader = await starting;
  const { width = 0, height = 0 } = await sharp(file).metadata();
  const grey = await sharp(file)
    .rotate()
    .resize(SIDE, SIDE, { fit: 'inside', withoutEnlargement: Math.max(width, height) > SIDE / 2 })
    .flatten({ background: '#fff' })
    .greyscale()
    .png()
    .toBuffer();
  const { data } = await reader.recognize(grey, {}, { text: true, blocks: true });
  const lines: string[] = [];
  for (const block of data.blocks ?? [])
    for (const paragraph of block.paragraphs)
      for (const line of paragraph.lines) {
        const words = line.words.filter(
          (word) => word.confidence >= SURE && /[\p{L}\p{N}]{2}/u.test(word.text),
        );
        if (words.some((word) => /\p{L}{3}/u.test(word.text)))
          lines.push(words.map((word) => word.text).join(' '));
      }
  return lines.join('\n').slice(0, 2000);
}
