import type { Geometry, Point } from './geometry.ts';
import type { Cover, Recipe } from './recipe.ts';
import { rgbOf } from './tone.ts';

/** Pixels of an image in rows, 3 or 4 bytes each. */
export interface Pixels {
  data: Uint8Array | Uint8ClampedArray;
  width: number;
  height: number;
  channels: 3 | 4;
}

/** Covers parts of an image in place. @param pixels of the output that the geometry tells of, or of all of it made smaller */
export function applyCovers(pixels: Pixels, recipe: Recipe, made: Pick<Geometry, 'orientedToOutput'>): void {
  for (const cover of recipe.covers ?? []) {
    const corners: Point[] = [
      { x: cover.x, y: cover.y },
      { x: cover.x + cover.width, y: cover.y },
      { x: cover.x, y: cover.y + cover.height },
      { x: cover.x + cover.width, y: cover.y + cover.height },
    ].map(made.orientedToOutput);
    const [xs, ys] = [corners.map(({ x }) => x * pixels.width), corners.map(({ y }) => y * pixels.height)];
    const left = Math.max(0, Math.floor(Math.min(...xs)));
    const top = Math.max(0, Math.floor(Math.min(...ys)));
    const right = Math.min(pixels.width, Math.ceil(Math.max(...xs)));
    const bottom = Math.min(pixels.height, Math.ceil(Math.max(...ys)));
    if (right > left && bottom > top) coverBox(pixels, cover, { left, top, right, bottom });
  }
}

interface Edges {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

function coverBox(pixels: Pixels, cover: Cover, edges: Edges): void {
  const side = Math.max(edges.right - edges.left, edges.bottom - edges.top);
  if (cover.as === 'colour') fill(pixels, edges, rgbOf(cover.colour ?? '#000000'));
  else if (cover.as === 'mosaic') mosaic(pixels, edges, Math.max(4, Math.ceil(side / 8)));
  // Three passes of a box come near to a bell, and leave nothing of a face or a number to be read.
  else for (let pass = 0; pass < 3; pass++) blur(pixels, edges, Math.max(2, Math.round(side / 8)));
}

function fill({ data, width, channels }: Pixels, edges: Edges, colour: readonly number[]): void {
  for (let y = edges.top; y < edges.bottom; y++)
    for (let x = edges.left; x < edges.right; x++) {
      const at = (y * width + x) * channels;
      for (let channel = 0; channel < 3; channel++) data[at + channel] = colour[channel]!;
      if (channels === 4) data[at + 3] = 255;
    }
}

function mosaic(pixels: Pixels, edges: Edges, tile: number): void {
  const { data, width, channels } = pixels;
  for (let top = edges.top; top < edges.bottom; top += tile)
    for (let left = edges.left; left < edges.right; left += tile) {
      const part = {
        left,
        top,
        right: Math.min(edges.right, left + tile),
        bottom: Math.min(edges.bottom, top + tile),
      };
      const sums = [0, 0, 0];
      let count = 0;
      for (let y = part.top; y < part.bottom; y++)
        for (let x = part.left; x < part.right; x++, count++)
          for (let channel = 0; channel < 3; channel++)
            sums[channel]! += data[(y * width + x) * channels + channel]!;
      fill(
        pixels,
        part,
        sums.map((sum) => Math.round(sum / count)),
      );
    }
}

/** A box blur, first along rows, then along columns; what lies beyond the part does not shine into it. */
function blur({ data, width, channels }: Pixels, edges: Edges, radius: number): void {
  const along = (start: number, step: number, count: number) => {
    const line = new Float64Array(count + 1);
    for (let channel = 0; channel < 3; channel++) {
      for (let at = 0; at < count; at++) line[at + 1] = line[at]! + data[start + at * step + channel]!;
      for (let at = 0; at < count; at++) {
        const [from, to] = [Math.max(0, at - radius), Math.min(count, at + radius + 1)];
        data[start + at * step + channel] = Math.round((line[to]! - line[from]!) / (to - from));
      }
    }
  };
  for (let y = edges.top; y < edges.bottom; y++)
    along((y * width + edges.left) * channels, channels, edges.right - edges.left);
  for (let x = edges.left; x < edges.right; x++)
    along((edges.top * width + x) * channels, width * channels, edges.bottom - edges.top);
}
