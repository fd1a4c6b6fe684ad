import { cellsOf } from '../../../core/picture/contrast.ts';
import { applyCovers } from '../../../core/picture/recipe/cover.ts';
import { edgeColour } from '../../../core/picture/recipe/edge.ts';
import { geometry, unsized, type Box, type Extent } from '../../../core/picture/recipe/geometry.ts';
import type { Recipe } from '../../../core/picture/recipe/recipe.ts';
import { applyTone, histogramWithin, toneTables, withLevels } from '../../../core/picture/recipe/tone.ts';
import type { PreviewRequest, PreviewAnswer } from './preview.ts';

/**
 * Draws an image as its recipe says, but for the frame, which is laid over it: turned and toned, in a canvas as large as it
 * has become. The tone is the server's own code.
 */
let image: ImageBitmap | undefined;
const scope = self as unknown as {
  onmessage: (event: MessageEvent<PreviewRequest>) => void;
  postMessage(answer: PreviewAnswer, transfer: Transferable[]): void;
};

scope.onmessage = ({ data }) => {
  if ('image' in data) {
    image = data.image;
    shaped = undefined;
  } else if (image) {
    const start = performance.now();
    const answer = { ...drawn(image, data), scale: data.scale, took: performance.now() - start };
    scope.postMessage(answer, [answer.bitmap, ...(answer.plain ? [answer.plain] : [])]);
  }
};

/** The image turned and straightened, before its tone: while only that changes, none of this is done again. */
interface Shaped {
  key: string;
  pixels: ImageData;
  room: Box;
  oriented: Extent;
  region: { left: number; top: number; width: number; height: number };
  histogram: Uint32Array;
  /** The histogram has been told. */
  told: boolean;
  /** Room for its pixels with their tone: taken once, not for each step of a slider. */
  toned: ImageData;
}
let shaped: Shaped | undefined;

function shapedAs(source: ImageBitmap, recipe: Recipe, scale: number): Shaped {
  const { orient, frame: asked } = recipe;
  const key = JSON.stringify([orient, asked, scale]);
  if (shaped?.key === key) return shaped;
  const { turns = 0, mirror, flip, straighten = 0 } = orient ?? {};
  const angle = (straighten * Math.PI) / 180;
  const { oriented, frame } = geometry(unsized(recipe), { width: source.width, height: source.height });
  const [cos, sin] = [Math.abs(Math.cos(angle)), Math.abs(Math.sin(angle))];
  const room: Box = {
    width: oriented.width * cos + oriented.height * sin,
    height: oriented.width * sin + oriented.height * cos,
    x: 0,
    y: 0,
  };
  room.x = (oriented.width - room.width) / 2;
  room.y = (oriented.height - room.height) / 2;
  const [width, height] = [
    Math.max(1, Math.round(room.width * scale)),
    Math.max(1, Math.round(room.height * scale)),
  ];
  const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!;
  context.translate(width / 2, height / 2);
  context.rotate(angle);
  context.scale(mirror ? -1 : 1, flip ? -1 : 1);
  context.rotate((turns * Math.PI) / 2);
  context.drawImage(
    source,
    (-source.width * scale) / 2,
    (-source.height * scale) / 2,
    source.width * scale,
    source.height * scale,
  );
  const pixels = context.getImageData(0, 0, width, height);
  const region = framedRegion(pixels, frame, room, scale);
  const histogram = histogramWithin(pixels.data, 4, region, width);
  const toned = new ImageData(width, height);
  return (shaped = { key, pixels, room, oriented, region, histogram, told: false, toned });
}

/** The pixels of a part. */
function partOf({ data, width }: ImageData, part: Shaped['region']): Uint8ClampedArray {
  if (part.left === 0 && part.width === width)
    return data.slice(part.top * width * 4, (part.top + part.height) * width * 4);
  const out = new Uint8ClampedArray(part.width * part.height * 4);
  for (let y = 0; y < part.height; y++) {
    const start = ((part.top + y) * width + part.left) * 4;
    out.set(data.subarray(start, start + part.width * 4), y * part.width * 4);
  }
  return out;
}

const bitmapOf = (pixels: ImageData): ImageBitmap => {
  const canvas = new OffscreenCanvas(pixels.width, pixels.height);
  canvas.getContext('2d')!.putImageData(pixels, 0, 0);
  return canvas.transferToImageBitmap();
};

function drawn(
  source: ImageBitmap,
  { number, recipe, scale, looks }: Exclude<PreviewRequest, { image: ImageBitmap }>,
): Omit<PreviewAnswer, 'scale' | 'took'> {
  const base = shapedAs(source, recipe, scale);
  const { room, oriented, region, histogram } = base;
  const { width, height } = base.pixels;
  const news = !base.told;
  base.told = true;
  const whole = withLevels(recipe, histogram);
  const { veil, ...tone } = whole.tone ?? {};
  const toned = toneTables(tone);
  const veils = veil && toneTables({ veil });
  const pixels = base.toned;
  pixels.data.set(base.pixels.data);
  if (toned) applyTone(pixels.data, 4, toned);
  const fillsEdge = recipe.frame?.beyond?.fill === 'edge';
  const cells = looks.cells ? cellsOf(pixels.data, width, 4, region) : undefined;
  const framed = { width: region.width, height: region.height, channels: 4 as const };
  const edge = fillsEdge
    ? `rgb(${edgeColour({ ...framed, data: partOf(pixels, region) }).join(' ')})`
    : undefined;
  if (veils) applyTone(pixels.data, 4, veils);
  if (looks.clipping) markClipped(pixels.data);
  if (recipe.covers) {
    // Parts lie on the image as it is turned: in all of what is drawn here.
    const all = {
      x: room.x / oriented.width,
      y: room.y / oriented.height,
      width: room.width / oriented.width,
      height: room.height / oriented.height,
    };
    const { orientedToOutput } = geometry(
      { version: 1, ...(recipe.orient ? { orient: recipe.orient } : {}), frame: all },
      { width: source.width, height: source.height },
    );
    applyCovers({ data: pixels.data, width, height, channels: 4 }, recipe, { orientedToOutput });
  }
  const levels = whole.tone?.levels;
  return {
    number,
    bitmap: bitmapOf(pixels),
    ...(news ? { histogram } : {}),
    ...(levels && levels !== 'auto' ? { levels } : {}),
    ...(looks.compare ? { plain: bitmapOf(base.pixels) } : {}),
    ...(cells ? { cells } : {}),
    ...(edge ? { edge } : {}),
  };
}

/** What of the frame is in the canvas, in its pixels. */
function framedRegion({ width, height }: ImageData, frame: Box, room: Box, scale: number) {
  const left = Math.min(width - 1, Math.max(0, Math.floor((frame.x - room.x) * scale)));
  const top = Math.min(height - 1, Math.max(0, Math.floor((frame.y - room.y) * scale)));
  const right = Math.min(width, Math.max(left + 1, Math.ceil((frame.x - room.x + frame.width) * scale)));
  const bottom = Math.min(height, Math.max(top + 1, Math.ceil((frame.y - room.y + frame.height) * scale)));
  return { left, top, width: right - left, height: bottom - top };
}

/** Pure white in red, pure black in blue: there nothing is to be seen any more. */
function markClipped(data: Uint8ClampedArray): void {
  for (let at = 0; at < data.length; at += 4) {
    if (data[at + 3]! < 128) continue;
    const [red, green, blue] = [data[at]!, data[at + 1]!, data[at + 2]!];
    if (red === 255 && green === 255 && blue === 255) data.set([226, 52, 44], at);
    else if (red === 0 && green === 0 && blue === 0) data.set([58, 110, 240], at);
  }
}
