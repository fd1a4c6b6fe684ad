import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';

/** JPEGs of twelve megapixels in a folder, each with bytes of its own and the same work to decode. @returns their paths */
export async function twelveMegapixels(
  folder: string,
  files: number,
  exif?: Record<string, Record<string, string>>,
): Promise<string[]> {
  const image = sharp(
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" width="4000" height="3000"><defs><linearGradient id="g" x2="1" y2="1"><stop stop-color="#124"/><stop offset="1" stop-color="#fc8"/></linearGradient></defs><rect width="100%" height="100%" fill="url(#g)"/>${Array.from({ length: 400 }, (_, i) => `<circle cx="${(i * 997) % 4000}" cy="${(i * 613) % 3000}" r="${10 + ((i * 37) % 160)}" fill="hsl(${(i * 47) % 360} 50% 50%)" fill-opacity=".6"/>`).join('')}</svg>`,
    ),
  );
  const base = await (exif ? image.withExif(exif) : image).jpeg({ quality: 88 }).toBuffer();
  const paths: string[] = [];
  for (let i = 0; i < files; i++) {
    paths.push(join(folder, `IMG_${1000 + i}.jpg`));
    // Other bytes in each, the same work to decode: a comment segment (FF FE) after the start.
    const note = Buffer.from(`number ${i}`);
    const head = Buffer.from([0xff, 0xfe, 0, note.length + 2]);
    await writeFile(paths[i]!, Buffer.concat([base.subarray(0, 2), head, note, base.subarray(2)]));
  }
  return paths;
}
