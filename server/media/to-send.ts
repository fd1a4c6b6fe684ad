import sharp from 'sharp';
import { SENT_PIXELS } from '../../core/tagging/protocol.ts';

/** An image as services that look at it get it: JPEG, of SENT_PIXELS at most, on white, without metadata. Runs in workers. */
export async function toSend(file: string): Promise<Buffer> {
  const { width, height } = await sharp(file).metadata();
  const scale = Math.min(1, Math.sqrt(SENT_PIXELS / (width * height)));
  return sharp(file)
    .resize(Math.max(1, Math.floor(width * scale)), Math.max(1, Math.floor(height * scale)), { fit: 'fill' })
    .flatten({ background: '#ffffff' })
    .toColorspace('srgb')
    .jpeg({ quality: 85 })
    .toBuffer();
}
