import h264 from 'h264-mp4-encoder';
import sharp, { type Sharp } from 'sharp';
import { startDecoder } from '../media/audio-video.ts';
import { seeded } from '../../core/test/chance.ts';

/** A photograph with the noise of a scanner. */
export function photograph(
  width: number,
  height: number,
  space: 'srgb' | 'cmyk' | 'b-w' = 'srgb',
): Promise<Buffer> {
  return noise(width, height)
    .toColourspace(space)
    .jpeg({ quality: 96, chromaSubsampling: '4:4:4' })
    .toBuffer();
}

/** The same as a PNG, which it should not be. */
export const scannedPng = (width: number, height: number): Promise<Buffer> =>
  noise(width, height).png().toBuffer();

/** A photograph that tells where it was taken. */
export const placedPhotograph = (width = 60): Promise<Buffer> =>
  sharp({ create: { width, height: 40, channels: 3, background: '#478' } })
    .withExif({
      IFD0: { Artist: 'Ottilie Marrow' },
      IFD3: {
        GPSLatitudeRef: 'N',
        GPSLatitude: '54/1 10/1 0/1',
        GPSLongitudeRef: 'W',
        GPSLongitude: '30/1 1/1 0/1',
      },
    })
    .jpeg()
    .toBuffer();

function noise(width: number, height: number): Sharp {
  const { below } = seeded(width + height);
  const pixels = Buffer.from(
    Uint8Array.from(
      { length: width * height * 3 },
      (_, i) => 60 + below(50) + ((i / 3) % width) / (width / 120),
    ),
  );
  return sharp(pixels, { raw: { width, height, channels: 3 } });
}

/** A video with noise, of 2 seconds at 12 frames a second. @param quality quantization, 10 (best) to 51 */
export async function film(quality: number, width = 320, height = 240): Promise<Uint8Array> {
  const { below } = seeded(quality);
  const encoder = await h264.createH264MP4Encoder();
  Object.assign(encoder, { width, height, frameRate: 12, quantizationParameter: quality });
  encoder.initialize();
  const pixels = Uint8Array.from({ length: width * height * 4 }, (_, i) => (i % 4 === 3 ? 255 : below(200)));
  for (let i = 0; i < 24; i++) {
    for (let at = 4 * width * i; at < 4 * width * (i + 8); at++) pixels[at] = below(250);
    encoder.addFrameRgba(pixels);
  }
  encoder.finalize();
  const bytes = encoder.FS.readFile(encoder.outputFilename);
  encoder.delete();
  return bytes;
}

/**
 * A video of another format or with more metadata; nothing is encoded anew where the arguments say `-c copy`.
 * @param name of the format's ending ('a.webm') @param args as the decoder's program takes them, between input and output
 */
export async function filmAs(film: Uint8Array, name: string, args: readonly string[]): Promise<Buffer> {
  const decoder = await startDecoder();
  decoder.setLogger(() => {});
  decoder.FS.createDataFile('/', 'given', film, true, false);
  decoder.reset();
  decoder.exec('-nostdin', '-y', '-i', 'given', ...args, name);
  return Buffer.from(decoder.FS.readFile(name));
}

/** A video whose second track measures where the camera is, which cannot be taken out without making the video anew. */
export async function stubbornFilm(): Promise<Buffer> {
  const two = await filmAs(await film(30), 'a.mp4', ['-map', '0', '-map', '0', '-c', 'copy']);
  const second = two.lastIndexOf('trak', undefined, 'latin1');
  two.write('meta', two.indexOf('vide', second, 'latin1'), 'latin1');
  two.write('gpmd', two.indexOf('avc1', second, 'latin1'), 'latin1');
  return two;
}

/** A plain photograph, twice as wide as high. */
export const wide = (width: number) =>
  sharp({ create: { width, height: width / 2, channels: 3, background: '#369' } })
    .jpeg()
    .toBuffer();

/** An image that looks like no other: stripes and noise by its number. */
export function painted(number: number, width = 600, height = 400): Promise<Buffer> {
  const stripes = Array.from({ length: 12 }, (_, i) => {
    const x = (i * 83 + number * 131) % 600;
    const y = (i * 47 + number * 71) % 400;
    return `<rect x="${x}" y="${y}" width="${30 + ((i * number) % 90)}" height="${20 + ((i + number) % 7) * 20}" fill="hsl(${(i * 40 + number * 57) % 360} 60% 50%)"/>`;
  }).join('');
  return sharp(
    Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="600" height="400">${stripes}</svg>`),
  )
    .resize(width, height, { fit: 'fill' })
    .flatten({ background: `hsl(${number * 40}, 30%, 80%)` })
    .jpeg({ quality: 92 })
    .toBuffer();
}
