/** L (0 to 100), a, b of each pixel (CIE 1976, D65), from sRGB (IEC 61966-2-1): three numbers each. What is seen through lies on white. */
export function labOf(pixels: Uint8Array | Uint8ClampedArray, channels: 3 | 4): Float32Array {
  const count = Math.floor(pixels.length / channels);
  const lab = new Float32Array(3 * count);
  for (let at = 0; at < count; at++) {
    const alpha = channels === 4 ? pixels[channels * at + 3]! / 255 : 1;
    const linear = (channel: number) =>
      LINEAR[Math.round(pixels[channels * at + channel]! * alpha + 255 * (1 - alpha))]!;
    const [r, g, b] = [linear(0), linear(1), linear(2)];
    const x = curve((0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / 0.95047);
    const y = curve(0.2126729 * r + 0.7151522 * g + 0.072175 * b);
    const z = curve((0.0193339 * r + 0.119192 * g + 0.9503041 * b) / 1.08883);
    lab[3 * at] = 116 * y - 16;
    lab[3 * at + 1] = 500 * (x - y);
    lab[3 * at + 2] = 200 * (y - z);
  }
  return lab;
}
const LINEAR = Float32Array.from({ length: 256 }, (_, value) => {
  const part = value / 255;
  return part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4;
});
const curve = (value: number) => (value > 0.008856 ? Math.cbrt(value) : 7.787 * value + 16 / 116);
