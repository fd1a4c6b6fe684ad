import sharp, { type OverlayOptions, type Sharp } from 'sharp';
import { strToU8 } from 'fflate';
import { stringify } from 'csv-stringify/sync';
import { createMp3Encoder, createOggEncoder } from 'wasm-media-encoders';
import h264 from 'h264-mp4-encoder';
import type { Recipe } from './recipe.ts';
import { Chance } from './chance.ts';
import { paint } from './sky/paint.ts';
import { shotDrawing } from './shots.ts';
import type { Scene } from './sky/scene.ts';
import { calendar, docx, pdf, xlsx } from './documents.ts';
import { drawing } from './drawings.ts';

/** Makes the bytes of one file. Deterministic. */
export async function render(
  recipe: Exclude<Recipe, { make: 'copy' }>,
  path: string,
  edge = 900,
): Promise<Uint8Array> {
  switch (recipe.make) {
    case 'picture':
      return picture(recipe, edge);
    case 'product':
      return product(recipe, edge);
    case 'shot': {
      const drawn = sharp(Buffer.from(shotDrawing(recipe.shot))).flatten();
      return encode(await grainy(drawn, 3, recipe.seed), 'jpg', 92);
    }
    case 'drawing':
      if (recipe.jpegWidth)
        return sharp(Buffer.from(drawing(recipe.drawing)), { density: 300 })
          .resize(recipe.jpegWidth)
          .flatten({ background: '#ffffff' })
          .jpeg({ quality: 95 })
          .toBuffer();
      return strToU8(drawing(recipe.drawing));
    case 'icon':
      return icon();
    case 'sound':
      return sound(path, recipe.seconds, recipe.format);
    case 'film':
      return film(recipe.from, recipe.seconds, edge, recipe.uncut);
    case 'pdf':
      return pdf(recipe.title, recipe.pages, recipe.scan && (await scanned(recipe.scan, edge)));
    case 'office':
      return recipe.kind === 'docx' ? docx(recipe.title) : xlsx();
    case 'table':
      return strToU8(stringify(recipe.rows, { record_delimiter: '\r\n' }));
    case 'calendar':
      return strToU8(calendar());
  }
}

/** Painted at a moderate size and enlarged: a sky has little detail, and twelve megapixels of noise take minutes. */
async function base(scene: Scene, aspect: number, edge: number) {
  const width = Math.round(aspect >= 1 ? edge : edge * aspect);
  const height = Math.round(width / aspect);
  const bytes = paint(scene, width, height).bytes(scene.seed);
  return sharp(bytes, { raw: { width, height, channels: 3 } });
}

async function picture(recipe: Extract<Recipe, { make: 'picture' }>, edge: number): Promise<Uint8Array> {
  const { width, height } = recipe;
  let image = (await base(recipe.scene, width / height, edge)).resize(width, height, { kernel: 'cubic' });
  if (recipe.edit === 'crop') {
    const whole = await image.png().toBuffer();
    image = sharp(whole).extract({
      left: Math.round(width * 0.1),
      top: Math.round(height * 0.08),
      width: Math.round(width * 0.8),
      height: Math.round(height * 0.8),
    });
  } else if (recipe.edit === 'brighter') image = image.modulate({ brightness: 1.25, saturation: 1.1 });
  if (recipe.grain) image = await grainy(image, recipe.grain, recipe.scene.seed);
  if (recipe.exif) image = image.withExif({ IFD0: recipe.exif });
  if (recipe.place) image = image.withExif({ IFD3: DOME });
  const bytes = await encode(image, recipe.format, recipe.quality ?? 84);
  return recipe.edit === 'torn' ? bytes.subarray(0, Math.round(bytes.length / 3)) : bytes;
}

/** Where the dome would stand (EXIF GPS): in the sea, as the moor is made up. */
const DOME = {
  GPSLatitudeRef: 'N',
  GPSLatitude: '54/1 20/1 0/1',
  GPSLongitudeRef: 'W',
  GPSLongitude: '30/1 10/1 0/1',
};

/** As a sensor sees it in the dark. */
async function grainy(image: Sharp, levels: number, seed: string): Promise<Sharp> {
  const { data, info } = await image.removeAlpha().raw().toBuffer({ resolveWithObject: true });
  const chance = new Chance(`${seed} grain`);
  for (let at = 0; at < data.length; at++)
    data[at] = Math.max(0, Math.min(255, data[at]! + chance.between(-levels, levels)));
  return sharp(data, { raw: { width: info.width, height: info.height, channels: 3 } });
}

/** A page from the scanner, as it is sent to print. */
async function scanned(scene: Scene, edge: number): Promise<Uint8Array> {
  const [width, height] = [1680, 2380];
  const image = (await base(scene, width / height, edge)).resize(width, height, { kernel: 'cubic' });
  return encode(await grainy(image, 30, scene.seed), 'jpg', 94);
}

function encode(image: Sharp, format: 'jpg' | 'png' | 'webp', quality: number): Promise<Buffer> {
  if (format === 'png') return image.png({ compressionLevel: 8 }).toBuffer();
  if (format === 'webp') return image.webp({ quality }).toBuffer();
  return image.jpeg({ quality, mozjpeg: false }).toBuffer();
}

async function product(recipe: Extract<Recipe, { make: 'product' }>, edge: number): Promise<Uint8Array> {
  const { size } = recipe;
  const inner = Math.round(size * 0.56);
  const sky = await (await base(recipe.scene, 1, Math.min(edge, 420))).resize(inner, inner).png().toBuffer();
  const at = (size - inner) / 2;
  const round = recipe.product !== 'print';
  const ground = `<svg xmlns="http://www.w3.org/2000/svg" width="${size}" height="${size}"><defs><linearGradient id="g" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#efe9dd"/><stop offset="1" stop-color="#d9d0bf"/></linearGradient><filter id="s"><feGaussianBlur stdDeviation="${size / 60}"/></filter></defs><rect width="100%" height="100%" fill="url(#g)"/>${
    round
      ? `<circle cx="${size / 2}" cy="${size * 0.53}" r="${inner * 0.6}" fill="#6b5d4a" opacity=".45" filter="url(#s)"/><circle cx="${size / 2}" cy="${size / 2}" r="${inner * 0.59}" fill="${recipe.product === 'pin' ? '#c39a4a' : '#f6f1e6'}"/><circle cx="${size / 2}" cy="${size / 2}" r="${inner * 0.55}" fill="none" stroke="#4a4033" stroke-width="2"/>`
      : `<rect x="${at * 0.72}" y="${at * 0.8}" width="${size - at * 1.44}" height="${size - at * 1.44}" fill="#6b5d4a" opacity=".5" filter="url(#s)"/><rect x="${at * 0.7}" y="${at * 0.7}" width="${size - at * 1.4}" height="${size - at * 1.4}" fill="#3a2d22"/><rect x="${at * 0.8}" y="${at * 0.8}" width="${size - at * 1.6}" height="${size - at * 1.6}" fill="#f7f4ec"/>`
  }</svg>`;
  const mask = Buffer.from(
    `<svg xmlns="http://www.w3.org/2000/svg" width="${inner}" height="${inner}"><circle cx="${inner / 2}" cy="${inner / 2}" r="${inner / 2}" fill="#fff"/></svg>`,
  );
  const shown = round
    ? await sharp(sky)
        .ensureAlpha()
        .composite([{ input: mask, blend: 'dest-in' }])
        .png()
        .toBuffer()
    : sky;
  const layers: OverlayOptions[] = [{ input: shown, left: Math.round(at), top: Math.round(at) }];
  if (recipe.product === 'wheel')
    layers.push({ input: Buffer.from(wheelMarks(size, inner, recipe.scene.seed)), left: 0, top: 0 });
  return encode(
    sharp(Buffer.from(ground)).composite(layers).flatten({ background: '#e6dfd0' }),
    recipe.format,
    84,
  );
}

/** What is printed on a star wheel: the months around it, its figures of stars, and the part of the sky that is seen. */
function wheelMarks(size: number, inner: number, seed: string): string {
  const c = size / 2;
  const chance = new Chance(`${seed} figures`);
  const figures = Array.from({ length: chance.whole(6, 10) }, () => {
    const [angle, far] = [chance.between(0, 2 * Math.PI), chance.between(0.1, 0.4) * inner];
    let [x, y] = [c + far * Math.cos(angle), c + far * Math.sin(angle)];
    let heading = chance.between(0, 2 * Math.PI);
    const stars = Array.from({ length: chance.whole(4, 7) }, () => {
      heading += chance.between(-1.2, 1.2);
      const step = chance.between(0.03, 0.075) * inner;
      x += step * Math.cos(heading);
      y += step * Math.sin(heading);
      return [x, y] as const;
    }).filter(([sx, sy]) => Math.hypot(sx - c, sy - c) < inner * 0.46);
    const dots = stars
      .map(([sx, sy]) => `<circle cx="${sx}" cy="${sy}" r="${chance.between(3, 7)}" fill="#f4ecd2"/>`)
      .join('');
    return `<polyline points="${stars.map((one) => one.join(',')).join(' ')}" fill="none" stroke="#8fb6c9" stroke-width="3"/>${dots}`;
  }).join('');
  const [lean, low] = [chance.between(-40, 40), chance.between(-0.1, 0.1)];
  const marks = Array.from({ length: 72 }, (_, i) => {
    const angle = (i / 72) * 2 * Math.PI;
    const [r0, r1] = [inner * 0.56, inner * (i % 6 === 0 ? 0.585 : 0.572)];
    return `<path d="M${c + r0 * Math.cos(angle)} ${c + r0 * Math.sin(angle)}L${c + r1 * Math.cos(angle)} ${c + r1 * Math.sin(angle)}" stroke="#4a4033" stroke-width="2"/>`;
  }).join('');
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${size}" height="${size}">${marks}${figures}<ellipse cx="${c}" cy="${c + inner * low}" rx="${inner * 0.36}" ry="${inner * 0.26}" transform="rotate(${lean} ${c} ${c})" fill="none" stroke="#e8c56a" stroke-width="3"/><circle cx="${c}" cy="${c}" r="9" fill="#c39a4a"/></svg>`;
}

/** An ICO with one 32-bit bitmap of 32 x 32. */
async function icon(): Promise<Uint8Array> {
  const size = 32;
  const pixels = await sharp(Buffer.from(drawing('icon-dome')), { density: 96 })
    .resize(size, size)
    .ensureAlpha()
    .raw()
    .toBuffer();
  const bitmap = Buffer.alloc(40 + size * size * 4 + (size * size) / 8);
  bitmap.writeUInt32LE(40, 0);
  bitmap.writeInt32LE(size, 4);
  bitmap.writeInt32LE(size * 2, 8);
  bitmap.writeUInt16LE(1, 12);
  bitmap.writeUInt16LE(32, 14);
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      const from = ((size - 1 - y) * size + x) * 4;
      const to = 40 + (y * size + x) * 4;
      bitmap[to] = pixels[from + 2]!;
      bitmap[to + 1] = pixels[from + 1]!;
      bitmap[to + 2] = pixels[from]!;
      bitmap[to + 3] = pixels[from + 3]!;
    }
  }
  const head = Buffer.alloc(22);
  head.writeUInt16LE(1, 2);
  head.writeUInt16LE(1, 4);
  head[6] = size;
  head[7] = size;
  head.writeUInt16LE(1, 10);
  head.writeUInt16LE(32, 12);
  head.writeUInt32LE(bitmap.length, 14);
  head.writeUInt32LE(22, 18);
  return Buffer.concat([head, bitmap]);
}

/** A slow chord with wind: no talk, but a real sound to see and hear. */
async function sound(seed: string, seconds: number, format: 'mp3' | 'ogg' | 'wav'): Promise<Uint8Array> {
  const rate = 44_100;
  const chance = new Chance(seed);
  const tones = Array.from({ length: 5 }, (_, i) => ({
    hertz: 110 * Math.pow(2, chance.pick([0, 3, 5, 7, 10, 12]) / 12 + (i % 3)),
    beat: chance.between(0.05, 0.2),
    turn: chance.between(0, 6),
  }));
  const samples = new Float32Array(rate * seconds);
  let wind = 0;
  for (let i = 0; i < samples.length; i++) {
    const t = i / rate;
    wind = wind * 0.985 + (chance.next() - 0.5) * 0.03;
    let value = wind * (0.6 + 0.4 * Math.sin(t * 0.7));
    for (const tone of tones)
      value +=
        0.07 *
        Math.sin(2 * Math.PI * tone.hertz * t) *
        (0.5 + 0.5 * Math.sin(2 * Math.PI * tone.beat * t + tone.turn));
    samples[i] = value * Math.min(1, t * 2, (seconds - t) * 2);
  }
  if (format === 'wav') return wav(samples, rate);
  const encoder = format === 'mp3' ? await createMp3Encoder() : await createOggEncoder();
  encoder.configure(
    format === 'mp3'
      ? { sampleRate: rate, channels: 1, bitrate: 96 }
      : ({ sampleRate: rate, channels: 1, vbrQuality: 3, oggSerialNo: 7 } as never),
  );
  const parts: Buffer[] = [];
  for (let at = 0; at < samples.length; at += rate)
    parts.push(Buffer.from(encoder.encode([samples.subarray(at, at + rate)])));
  parts.push(Buffer.from(encoder.finalize()));
  return Buffer.concat(parts);
}

function wav(samples: Float32Array, rate: number): Uint8Array {
  const bytes = Buffer.alloc(44 + samples.length * 2);
  bytes.write('RIFF', 0, 'latin1');
  bytes.writeUInt32LE(36 + samples.length * 2, 4);
  bytes.write('WAVEfmt ', 8, 'latin1');
  bytes.writeUInt32LE(16, 16);
  bytes.writeUInt16LE(1, 20);
  bytes.writeUInt16LE(1, 22);
  bytes.writeUInt32LE(rate, 24);
  bytes.writeUInt32LE(rate * 2, 28);
  bytes.writeUInt16LE(2, 32);
  bytes.writeUInt16LE(16, 34);
  bytes.write('data', 36, 'latin1');
  bytes.writeUInt32LE(samples.length * 2, 40);
  samples.forEach((sample, i) =>
    bytes.writeInt16LE(Math.round(32767 * Math.max(-1, Math.min(1, sample))), 44 + i * 2),
  );
  return bytes;
}

/** A slow drift over a painted sky. */
async function film(scene: Scene, seconds: number, edge: number, uncut = false): Promise<Uint8Array> {
  const [width, height, rate] = [640, 360, 12];
  const sky = (await base(scene, 16 / 9, edge)).resize(960, 540);
  const wide = await (uncut ? await grainy(sky, 60, scene.seed) : sky).removeAlpha().raw().toBuffer();
  const encoder = await h264.createH264MP4Encoder();
  encoder.width = width;
  encoder.height = height;
  encoder.frameRate = rate;
  encoder.quantizationParameter = uncut ? 10 : 30;
  encoder.initialize();
  const frames = seconds * rate;
  for (let i = 0; i < frames; i++) {
    const left = Math.round((320 * i) / frames);
    const top = Math.round(90 + 60 * Math.sin((i / frames) * Math.PI));
    const frame = await sharp(wide, { raw: { width: 960, height: 540, channels: 3 } })
      .extract({ left, top, width, height })
      .ensureAlpha()
      .raw()
      .toBuffer();
    encoder.addFrameRgba(new Uint8Array(frame));
  }
  encoder.finalize();
  const bytes = encoder.FS.readFile(encoder.outputFilename);
  encoder.delete();
  return withoutDates(Buffer.from(bytes));
}

/** Clears creation and modification time in the boxes that hold them (ISO/IEC 14496-12): no clock in the demo. */
function withoutDates(bytes: Buffer): Buffer {
  for (const box of ['mvhd', 'tkhd', 'mdhd']) {
    const at = bytes.indexOf(box, 0, 'latin1');
    if (at >= 0) bytes.fill(0, at + 8, at + 16);
  }
  return bytes;
}
