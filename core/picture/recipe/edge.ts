import type { Pixels } from './cover.ts';

/** The mean colour of the outermost two of a hundred pixels, in sRGB bytes; white where all is seen through. */
export function edgeColour({ data, width, height, channels }: Pixels): [number, number, number] {
  const wide = Math.max(1, Math.round(Math.min(width, height) * 0.02));
  const sums: [number, number, number] = [0, 0, 0];
  let count = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (x >= wide && x < width - wide && y >= wide && y < height - wide) continue;
      const at = (y * width + x) * channels;
      if (channels === 4 && data[at + 3]! < 128) continue;
      for (let channel = 0; channel < 3; channel++) sums[channel]! += data[at + channel]!;
      count++;
    }
  return sums.map((sum) => (count === 0 ? 255 : Math.round(sum / count))) as [number, number, number];
}
