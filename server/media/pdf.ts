import { readFile, writeFile } from 'node:fs/promises';
import { PDFArray, PDFDict, PDFDocument, PDFName, PDFNumber, PDFRawStream } from 'pdf-lib';
import sharp from 'sharp';

/** Pixels of the longer side that an image in a PDF keeps: a page of it at 150 dots an inch (A4 is 1754 high). */
const LONGEST = 1754;
const QUALITY = 78;
/** An image that is hardly lighter is not worth a generation of losses. */
const WORTH = 0.9;

/** Why a PDF is left as it is, in a sentence. */
export class LeftAlone extends Error {}

/**
 * A copy of a PDF (ISO 32000-1) whose photographs have as many pixels as a screen shows; texts, drawings and all else stay as they are.
 * Only images that are JPEGs in grey or in colours of a screen are encoded anew.
 * @returns how many images were made lighter
 * @throws LeftAlone when it is signed or protected, which a copy would break, or cannot be read
 */
export async function shrinkPdf(file: string, to: string): Promise<number> {
  const document = await PDFDocument.load(await readFile(file), { updateMetadata: false }).catch(
    (error: Error) => {
      throw new LeftAlone(
        error.message.includes('encrypted') ? 'it is protected by a password' : 'it cannot be read whole',
      );
    },
  );
  const { context } = document;
  let shrunk = 0;
  const objects = context.enumerateIndirectObjects();
  for (const [, one] of objects)
    if (one instanceof PDFDict && one.get(PDFName.of('ByteRange')) instanceof PDFArray)
      throw new LeftAlone('it is signed, and a copy would lose the signature');
  for (const [ref, one] of objects) {
    if (!(one instanceof PDFRawStream) || !isJpeg(one.dict)) continue;
    const lighter = await shrunkJpeg(one.contents);
    if (!lighter) continue;
    const { data, info } = lighter;
    const dict = one.dict.clone(context);
    dict.set(PDFName.of('Width'), PDFNumber.of(info.width));
    dict.set(PDFName.of('Height'), PDFNumber.of(info.height));
    dict.set(PDFName.of('ColorSpace'), PDFName.of(info.channels === 1 ? 'DeviceGray' : 'DeviceRGB'));
    dict.set(PDFName.of('Length'), PDFNumber.of(data.length));
    context.assign(ref, PDFRawStream.of(dict, data));
    shrunk++;
  }
  await writeFile(to, await document.save());
  return shrunk;
}

/** An image encoded as JPEG and as nothing else, with the usual meaning of its values. */
function isJpeg(dict: PDFDict): boolean {
  const filter = dict.lookup(PDFName.of('Filter'));
  const only = filter instanceof PDFArray && filter.size() === 1 ? filter.lookup(0) : filter;
  return (
    dict.lookup(PDFName.of('Subtype')) === PDFName.of('Image') &&
    only === PDFName.of('DCTDecode') &&
    !dict.has(PDFName.of('Decode')) &&
    !dict.has(PDFName.of('DecodeParms'))
  );
}

async function shrunkJpeg(bytes: Uint8Array) {
  const { space, channels } = await sharp(bytes).metadata();
  // Colours of a printing press would be others on the way back.
  if (space !== 'srgb' && !(space === 'b-w' && channels === 1)) return undefined;
  const made = await sharp(bytes)
    .resize({ width: LONGEST, height: LONGEST, fit: 'inside', withoutEnlargement: true })
    .toColourspace(space)
    .jpeg({ quality: QUALITY, mozjpeg: true })
    .toBuffer({ resolveWithObject: true });
  return made.data.length < bytes.length * WORTH ? made : undefined;
}
