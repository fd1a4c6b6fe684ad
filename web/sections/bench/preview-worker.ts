import { applyCovers } from '../../../core/picture/recipe/cover.ts';
import { geometry, unsized, type Box } from '../../../core/picture/recipe/geometry.ts';
import { applyTone, histogramOf, toneTables, withLevels } from '../../../core/picture/recipe/tone.ts';
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
  if ('image' in data) image = data.image;
  else if (image) {
    const answer = drawn(image, data);
    scope.postMessage(answer, [answer.bitmap]);
  }
};

function drawn(
  source: ImageBitmap,
  { number, recipe, scale }: Exclude<PreviewRequest, { image: ImageBitmap }>,
) {
  const { turns = 0, mirror, flip, straighten = 0 } = recipe.orient ?? {};
  const upright = { width: source.width, height: source.height };
  const angle = (straighten * Math.PI) / 180;
  const { oriented, frame } = geometry(unsized(recipe), upright);
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
  const canvas = new OffscreenCanvas(width, height);
  const context = canvas.getContext('2d', { willReadFrequently: true })!;
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
  context.resetTransform();
  const histogram = framedHistogram(context, frame, room, scale);
  const whole = withLevels(recipe, histogram);
  const { veil, ...tone } = whole.tone ?? {};
  const tables = [toneTables(tone), veil && toneTables({ veil })].filter((one) => one !== undefined);
  if (tables.length > 0 || recipe.covers) {
    const pixels = context.getImageData(0, 0, width, height);
    for (const one of tables) applyTone(pixels.data, 4, one);
    // Parts lie on the image as it is turned: in all of what is drawn here.
    const all = {
      x: room.x / oriented.width,
      y: room.y / oriented.height,
      width: room.width / oriented.width,
      height: room.height / oriented.height,
    };
    const { orientedToOutput } = geometry(
      { version: 1, ...(recipe.orient ? { orient: recipe.orient } : {}), frame: all },
      upright,
    );
    applyCovers({ data: pixels.data, width, height, channels: 4 }, recipe, { orientedToOutput });
    context.putImageData(pixels, 0, 0);
  }
  const levels = whole.tone?.levels;
  return {
    number,
    bitmap: canvas.transferToImageBitmap(),
    histogram,
    ...(levels && levels !== 'auto' ? { levels } : {}),
  };
}

/** How bright what the frame holds is, before its tone. */
function framedHistogram(
  context: OffscreenCanvasRenderingContext2D,
  frame: Box,
  room: Box,
  scale: number,
): Uint32Array {
  const { width, height } = context.canvas;
  const left = Math.min(width - 1, Math.max(0, Math.floor((frame.x - room.x) * scale)));
  const top = Math.min(height - 1, Math.max(0, Math.floor((frame.y - room.y) * scale)));
  const right = Math.min(width, Math.max(left + 1, Math.ceil((frame.x - room.x + frame.width) * scale)));
  const bottom = Math.min(height, Math.max(top + 1, Math.ceil((frame.y - room.y + frame.height) * scale)));
  return histogramOf(context.getImageData(left, top, right - left, bottom - top).data, 4);
}
