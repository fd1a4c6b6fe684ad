/**
 * The colours that make up most of an image, the largest share first, as '#rrggbb'.
 * Colours are counted in cells of 32 levels a channel; neighbours of a colour already taken are left out.
 * @param rgb 3 bytes a pixel
 */
export function dominantColours(rgb: Uint8Array, most = 5): string[] {
  const cells = new Map<number, { pixels: number; r: number; g: number; b: number }>();
  const pixels = Math.floor(rgb.length / 3);
  for (let i = 0; i < pixels; i++) {
    const [r, g, b] = [rgb[3 * i]!, rgb[3 * i + 1]!, rgb[3 * i + 2]!];
    const key = ((r >> 5) << 6) | ((g >> 5) << 3) | (b >> 5);
    const cell = cells.get(key);
    if (cell) {
      cell.pixels++;
      cell.r += r;
      cell.g += g;
      cell.b += b;
    } else cells.set(key, { pixels: 1, r, g, b });
  }
  const taken: { pixels: number; rgb: [number, number, number] }[] = [];
  for (const cell of [...cells.values()].sort((a, b) => b.pixels - a.pixels)) {
    const colour: [number, number, number] = [
      cell.r / cell.pixels,
      cell.g / cell.pixels,
      cell.b / cell.pixels,
    ];
    if (cell.pixels < pixels * 0.02 && taken.length > 0) break;
    const near = taken.find((one) => Math.hypot(...one.rgb.map((value, i) => value - colour[i]!)) < 48);
    if (near) continue;
    taken.push({ pixels: cell.pixels, rgb: colour });
    if (taken.length === most) break;
  }
  return taken.map(
    ({ rgb: parts }) => `#${parts.map((value) => Math.round(value).toString(16).padStart(2, '0')).join('')}`,
  );
}
