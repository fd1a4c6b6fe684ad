import { rgbOf } from './recipe/tone.ts';

/** Contrast that text of ordinary size needs (WCAG 2.2, success criterion 1.4.3). */
export const READABLE = 4.5;

/** Relative luminance of sRGB bytes, 0 to 1 (WCAG 2.2). */
export function luminanceOf(red: number, green: number, blue: number): number {
  return 0.2126 * LINEAR[red]! + 0.7152 * LINEAR[green]! + 0.0722 * LINEAR[blue]!;
}
const LINEAR = Float64Array.from({ length: 256 }, (_, value) => {
  const part = value / 255;
  return part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4;
});

/** Contrast ratio of two luminances, 1 to 21. */
export const contrastOf = (one: number, other: number) =>
  (Math.max(one, other) + 0.05) / (Math.min(one, other) + 0.05);

/** Cells of a side at most: a stroke of text lies over several pixels, so that a single one decides nothing. */
const CELLS = 64;

/**
 * The mean colours of a region in a grid, three bytes each, row by row.
 * @param pixels 3 or 4 bytes each
 * @param box in whole pixels, within the image
 */
export function cellsOf(
  pixels: Uint8Array | Uint8ClampedArray,
  width: number,
  channels: 3 | 4,
  box: { left: number; top: number; width: number; height: number },
): Uint8Array {
  const across = Math.max(1, Math.min(CELLS, Math.floor(box.width / 4)));
  const down = Math.max(1, Math.min(CELLS, Math.floor(box.height / 4)));
  const sums = new Float64Array(across * down * 4);
  for (let y = 0; y < box.height; y++) {
    const row = Math.floor((y * down) / box.height) * across;
    for (let x = 0; x < box.width; x++) {
      const cell = 4 * (row + Math.floor((x * across) / box.width));
      const at = ((box.top + y) * width + box.left + x) * channels;
      if (channels === 4 && pixels[at + 3]! < 128) continue;
      for (let channel = 0; channel < 3; channel++) sums[cell + channel]! += pixels[at + channel]!;
      sums[cell + 3]!++;
    }
  }
  const cells: number[] = [];
  for (let cell = 0; cell < sums.length; cell += 4) {
    const count = sums[cell + 3]!;
    if (count === 0) continue;
    for (let channel = 0; channel < 3; channel++) cells.push(Math.round(sums[cell + channel]! / count));
  }
  return Uint8Array.from(cells);
}

/**
 * How readable text is over a region: the least contrast, which decides, and the mean.
 * @param text '#rrggbb'
 * @param veil laid over the region before
 */
export function contrastOver(
  cells: Uint8Array,
  text: string,
  veil?: { colour: string; opacity: number },
): { least: number; mean: number } {
  const ink = luminanceOf(...rgbOf(text));
  const [red, green, blue] = veil ? rgbOf(veil.colour) : [0, 0, 0];
  const opacity = veil?.opacity ?? 0;
  const under = (value: number, over: number) => Math.round(value * (1 - opacity) + over * opacity);
  let [least, sum, count] = [21, 0, 0];
  for (let at = 0; at + 2 < cells.length; at += 3) {
    const ground = luminanceOf(
      under(cells[at]!, red),
      under(cells[at + 1]!, green),
      under(cells[at + 2]!, blue),
    );
    const contrast = contrastOf(ink, ground);
    least = Math.min(least, contrast);
    sum += contrast;
    count++;
  }
  return count === 0 ? { least: 1, mean: 1 } : { least, mean: sum / count };
}

/** The least opacity of a veil, in hundredths, by which all of the text can be read; undefined: its colour is too near the text’s. */
export function readableVeil(
  cells: Uint8Array,
  text: string,
  colour: string,
  goal = READABLE,
): number | undefined {
  for (let hundredths = 0; hundredths <= 100; hundredths++)
    if (contrastOver(cells, text, { colour, opacity: hundredths / 100 }).least >= goal)
      return hundredths / 100;
  return undefined;
}
