import sharp, { type OutputInfo } from 'sharp';
import { chromaOf, PLANE, planeOf } from '../../core/picture/signature.ts';
import { Prepared } from '../../core/picture/windows.ts';

export interface Comparable {
  picture: Prepared;
  /** What it was laid on. */
  background: string;
}

/**
 * Decoded pixels as images are compared: on white where they are transparent, or on black when nothing can be seen of them on white, as
 * of a white drawing.
 */
export async function comparable({ data, info }: { data: Buffer; info: OutputInfo }): Promise<Comparable> {
  const { width, height, channels } = info;
  const on = async (background: string) => {
    const rgb = await sharp(data, { raw: { width, height, channels } })
      .flatten({ background })
      .toColorspace('srgb')
      .resize(PLANE, PLANE, { fit: 'fill' })
      .removeAlpha()
      .raw()
      .toBuffer();
    const picture = new Prepared({ plane: planeOf(rgb), chroma: chromaOf(rgb), width, height });
    return { picture, background };
  };
  const onWhite = await on('#ffffff');
  return onWhite.picture.isFlat && channels % 2 === 0 ? on('#000000') : onWhite;
}
