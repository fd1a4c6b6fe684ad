/** A stream of numbers from a seed: the same seed gives the same numbers on every machine (mulberry32). */
export class Chance {
  private state: number;

  constructor(seed: string) {
    // FNV-1a over the characters.
    let hash = 0x811c9dc5;
    for (let i = 0; i < seed.length; i++) hash = Math.imul(hash ^ seed.charCodeAt(i), 0x01000193);
    this.state = hash >>> 0;
  }

  /** From 0 (included) to 1 (excluded). */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) >>> 0;
    let t = this.state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  }

  between(low: number, high: number): number {
    return low + (high - low) * this.next();
  }

  whole(low: number, high: number): number {
    return Math.floor(this.between(low, high + 1));
  }

  pick<Value>(values: readonly Value[]): Value {
    return values[Math.floor(this.next() * values.length)]!;
  }
}

/** Smooth noise over the plane, from -1 to 1, made from a seed (gradient noise after K. Perlin, 2002). */
export class Noise {
  private readonly table = new Uint8Array(512);
  private readonly gx = new Float32Array(256);
  private readonly gy = new Float32Array(256);

  constructor(seed: string) {
    const chance = new Chance(seed);
    const order = Array.from({ length: 256 }, (_, i) => i);
    for (let i = 255; i > 0; i--) {
      const j = chance.whole(0, i);
      [order[i], order[j]] = [order[j]!, order[i]!];
    }
    for (let i = 0; i < 512; i++) this.table[i] = order[i & 255]!;
    for (let i = 0; i < 256; i++) {
      const angle = (i / 256) * 2 * Math.PI;
      this.gx[i] = Math.cos(angle);
      this.gy[i] = Math.sin(angle);
    }
  }

  at(x: number, y: number): number {
    const xi = Math.floor(x);
    const yi = Math.floor(y);
    const fx = x - xi;
    const fy = y - yi;
    const u = fx * fx * fx * (fx * (fx * 6 - 15) + 10);
    const v = fy * fy * fy * (fy * (fy * 6 - 15) + 10);
    const X = xi & 255;
    const Y = yi & 255;
    const a = this.table[this.table[X]! + Y]!;
    const b = this.table[this.table[(X + 1) & 255]! + Y]!;
    const c = this.table[this.table[X]! + ((Y + 1) & 255)]!;
    const d = this.table[this.table[(X + 1) & 255]! + ((Y + 1) & 255)]!;
    const na = this.gx[a]! * fx + this.gy[a]! * fy;
    const nb = this.gx[b]! * (fx - 1) + this.gy[b]! * fy;
    const nc = this.gx[c]! * fx + this.gy[c]! * (fy - 1);
    const nd = this.gx[d]! * (fx - 1) + this.gy[d]! * (fy - 1);
    const top = na + u * (nb - na);
    return (top + v * (nc + u * (nd - nc) - top)) * 1.41;
  }

  /** Several octaves, each of twice the frequency and half the strength. */
  layers(x: number, y: number, octaves: number): number {
    let sum = 0;
    let strength = 0.5;
    for (let i = 0; i < octaves; i++) {
      sum += strength * this.at(x, y);
      x = x * 2.03 + 17.1;
      y = y * 2.03 - 9.7;
      strength *= 0.5;
    }
    return sum;
  }

  /** Ridges: bright threads where the noise crosses zero. */
  ridges(x: number, y: number, octaves: number): number {
    let sum = 0;
    let strength = 0.5;
    for (let i = 0; i < octaves; i++) {
      sum += strength * (1 - Math.abs(this.at(x, y)));
      x = x * 2.07 + 31.7;
      y = y * 2.07 + 11.3;
      strength *= 0.5;
    }
    return sum;
  }
}
