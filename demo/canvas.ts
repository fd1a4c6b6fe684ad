import { Chance } from './chance.ts';

export type Colour = readonly [number, number, number];

/** Red, green and blue as light from 0 up; more than 1 is burnt out and is rolled off when written. */
export class Canvas {
  readonly data: Float32Array;

  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    this.data = new Float32Array(width * height * 3);
  }

  /** Fills every pixel: x from 0 to width / height, y from 0 to 1. */
  shade(pixel: (x: number, y: number, out: [number, number, number]) => void): this {
    const out: [number, number, number] = [0, 0, 0];
    let at = 0;
    for (let py = 0; py < this.height; py++) {
      const y = (py + 0.5) / this.height;
      for (let px = 0; px < this.width; px++) {
        out[0] = this.data[at]!;
        out[1] = this.data[at + 1]!;
        out[2] = this.data[at + 2]!;
        pixel((px + 0.5) / this.height, y, out);
        this.data[at++] = out[0];
        this.data[at++] = out[1];
        this.data[at++] = out[2];
      }
    }
    return this;
  }

  /** Adds a round glow of light: x and y as in shade, radius in the same unit. */
  glow(x: number, y: number, radius: number, colour: Colour, strength: number): void {
    const cx = x * this.height;
    const cy = y * this.height;
    const r = radius * this.height;
    const reach = Math.ceil(r * 3.2);
    for (let py = Math.max(0, Math.floor(cy - reach)); py <= Math.min(this.height - 1, cy + reach); py++) {
      for (let px = Math.max(0, Math.floor(cx - reach)); px <= Math.min(this.width - 1, cx + reach); px++) {
        const d = ((px - cx) * (px - cx) + (py - cy) * (py - cy)) / (r * r);
        const light = strength * Math.exp(-d);
        if (light < 0.002) continue;
        const at = (py * this.width + px) * 3;
        this.data[at]! += light * colour[0];
        this.data[at + 1]! += light * colour[1];
        this.data[at + 2]! += light * colour[2];
      }
    }
  }

  /** Stars by a magnitude law: each step fainter there are 2.5 times as many. `where` thins them out (0 none, 1 all). */
  stars(seed: string, count: number, where: (x: number, y: number) => number = () => 1): this {
    const chance = new Chance(seed);
    const wide = this.width / this.height;
    for (let i = 0; i < count; i++) {
      const x = chance.between(0, wide);
      const y = chance.next();
      const rank = chance.next();
      const warm = chance.next();
      const strength = Math.min(6, 0.09 * Math.pow(rank + 0.0008, -0.62));
      if (chance.next() > where(x, y)) continue;
      const colour: Colour =
        warm < 0.25
          ? [1, 0.78, 0.58]
          : warm < 0.5
            ? [1, 0.95, 0.86]
            : warm < 0.8
              ? [0.86, 0.92, 1]
              : [0.68, 0.8, 1];
      const size = 0.0011 + 0.0006 * Math.min(2.5, strength);
      this.glow(x, y, size, colour, strength);
      if (strength > 1.4) this.glow(x, y, size * 5, colour, strength * 0.05);
    }
    return this;
  }

  /** Eight bits a channel, with a soft shoulder for the highlights and a little grain. */
  bytes(seed: string, grain = 0.012): Buffer {
    const chance = new Chance(`${seed} grain`);
    const bytes = Buffer.alloc(this.data.length);
    for (let at = 0; at < this.data.length; at += 3) {
      const noise = grain * (chance.next() + chance.next() - 1);
      for (let c = 0; c < 3; c++) {
        const light = Math.max(0, this.data[at + c]! + noise);
        const rolled = light < 0.7 ? light : 0.7 + 0.3 * (1 - Math.exp(-(light - 0.7) / 0.3));
        bytes[at + c] = Math.round(255 * rolled);
      }
    }
    return bytes;
  }
}

export function mix(a: Colour, b: Colour, t: number): Colour {
  return [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t];
}

export function smooth(from: number, to: number, value: number): number {
  const t = Math.min(1, Math.max(0, (value - from) / (to - from)));
  return t * t * (3 - 2 * t);
}
