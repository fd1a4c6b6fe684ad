import type { Canvas } from '../canvas.ts';
import { mix, smooth, type Colour } from '../canvas.ts';
import { Chance, Noise } from '../chance.ts';
import type { Weather } from './scene.ts';

/** Height of a ridge of hills at x, from 0 to 1 of the image's height (measured from the top). */
function ridge(noise: Noise, x: number, level: number, rough: number): number {
  return level + rough * noise.layers(x * 1.3 + level * 40, level * 13, 5);
}

/** The observatory's building with its dome: true inside; `slit` inside the opening. */
function building(
  x: number,
  y: number,
  cx: number,
  base: number,
  size: number,
): 'dome' | 'slit' | 'wall' | 'window' | undefined {
  const dx = (x - cx) / size;
  const dy = (base - y) / size;
  if (dy < 0) return undefined;
  if (Math.abs(dx) < 1 && dy < 0.85) {
    const column = Math.abs(((dx + 1) * 2.5) % 1) - 0.5;
    return Math.abs(column) < 0.17 && dy > 0.25 && dy < 0.6 ? 'window' : 'wall';
  }
  if (dx > 1 && dx < 2.9 && dy < 0.5)
    return Math.abs(((dx * 3) % 1) - 0.5) < 0.2 && dy > 0.16 && dy < 0.36 ? 'window' : 'wall';
  const d = Math.hypot(dx, dy - 0.85);
  if (d < 0.96 && dy >= 0.85) return Math.abs(dx - 0.28) < 0.15 - 0.04 * dy ? 'slit' : 'dome';
  return undefined;
}

function landscape(canvas: Canvas, seed: string, far: Colour, near: Colour, lit: number, wall: Colour): void {
  const chance = new Chance(`${seed} land`);
  const noise = new Noise(`${seed} land`);
  const wide = canvas.width / canvas.height;
  const cx = wide * chance.between(0.28, 0.7);
  const size = chance.between(0.075, 0.12);
  const base = ridge(noise, cx, 0.76, 0.03) + 0.02;
  canvas.shade((x, y, out) => {
    for (let layer = 0; layer < 4; layer++) {
      const depth = layer / 3;
      if (layer === 2) {
        const part = building(x, y, cx, base, size);
        if (part) {
          const side = 0.75 + 0.5 * ((x - cx) / size) * 0.4;
          const tone = part === 'slit' ? 0.25 : part === 'dome' ? 1.25 * side : 0.9 * side;
          const window = part === 'window' ? lit : part === 'slit' ? lit * 0.5 : 0;
          out[0] = wall[0] * tone + window * 1.1;
          out[1] = wall[1] * tone + window * 0.72;
          out[2] = wall[2] * tone + window * 0.34;
        }
      }
      const top = ridge(noise, x, 0.66 + 0.08 * layer, 0.1 - 0.02 * layer);
      if (y > top) {
        const colour = mix(far, near, depth);
        const grass = 1 + 0.25 * noise.layers(x * 60, y * 90, 3) * depth;
        out[0] = colour[0] * grass;
        out[1] = colour[1] * grass;
        out[2] = colour[2] * grass;
      }
    }
  });
  if (lit > 0) canvas.glow(cx, base - size * 0.35, size * 1.2, [1, 0.7, 0.35], lit * 0.16);
}

const SKIES: Record<
  Weather,
  { top: Colour; low: Colour; far: Colour; near: Colour; wall: Colour; lit: number; stars: number }
> = {
  dusk: {
    top: [0.07, 0.12, 0.3],
    low: [0.98, 0.52, 0.28],
    far: [0.24, 0.17, 0.24],
    near: [0.05, 0.05, 0.07],
    wall: [0.34, 0.27, 0.28],
    lit: 1,
    stars: 90,
  },
  night: {
    top: [0.012, 0.018, 0.05],
    low: [0.09, 0.12, 0.2],
    far: [0.03, 0.04, 0.07],
    near: [0.01, 0.012, 0.018],
    wall: [0.1, 0.11, 0.15],
    lit: 0.9,
    stars: 1500,
  },
  snow: {
    top: [0.5, 0.56, 0.66],
    low: [0.84, 0.86, 0.9],
    far: [0.72, 0.76, 0.82],
    near: [0.93, 0.94, 0.96],
    wall: [0.55, 0.57, 0.6],
    lit: 0.7,
    stars: 0,
  },
  fog: {
    top: [0.7, 0.72, 0.72],
    low: [0.84, 0.83, 0.8],
    far: [0.7, 0.71, 0.7],
    near: [0.36, 0.38, 0.36],
    wall: [0.52, 0.53, 0.53],
    lit: 0.2,
    stars: 0,
  },
  aurora: {
    top: [0.015, 0.03, 0.07],
    low: [0.04, 0.12, 0.13],
    far: [0.02, 0.05, 0.06],
    near: [0.008, 0.016, 0.02],
    wall: [0.09, 0.14, 0.15],
    lit: 0.7,
    stars: 900,
  },
  morning: {
    top: [0.32, 0.52, 0.78],
    low: [1, 0.88, 0.7],
    far: [0.5, 0.52, 0.5],
    near: [0.17, 0.24, 0.13],
    wall: [0.82, 0.8, 0.76],
    lit: 0,
    stars: 0,
  },
  storm: {
    top: [0.13, 0.15, 0.19],
    low: [0.5, 0.5, 0.44],
    far: [0.2, 0.22, 0.22],
    near: [0.1, 0.13, 0.09],
    wall: [0.42, 0.42, 0.42],
    lit: 0.8,
    stars: 0,
  },
};

export function dome(canvas: Canvas, seed: string, weather: Weather): Canvas {
  const noise = new Noise(seed);
  const chance = new Chance(seed);
  const sky = SKIES[weather];
  const wide = canvas.width / canvas.height;
  const sunX = wide * chance.between(0.2, 0.8);
  canvas.shade((x, y, out) => {
    const colour = mix(sky.top, sky.low, Math.pow(Math.min(1, y / 0.72), 1.6));
    let [r, g, b] = colour;
    const cloud = noise.layers(x * 1.5, y * 5.5, 6);
    if (weather === 'dusk' || weather === 'morning') {
      const veil = smooth(0, 0.45, cloud) * 0.6 * smooth(0.75, 0.2, y);
      const warm = Math.exp(-((x - sunX) ** 2 * 2.2 + (y - 0.66) ** 2 * 7));
      r += veil * 0.35 + warm * 0.5;
      g += veil * 0.2 + warm * 0.26;
      b += veil * 0.2 + warm * 0.08;
    } else if (weather === 'storm') {
      const dark = smooth(-0.2, 0.35, cloud + 0.4 * noise.layers(x * 4, y * 9, 5));
      [r, g, b] = mix([r, g, b], [0.07, 0.08, 0.1], dark * 0.75);
    } else if (weather === 'aurora') {
      const wave = 0.36 + 0.12 * noise.at(x * 1.7, 4) + 0.05 * noise.at(x * 5, 9);
      const above = wave - y;
      const curtain = above > 0 ? Math.exp(-above * 4.5) : Math.exp(above * 26);
      const rays = 0.55 + 0.75 * noise.ridges(x * 11, 2 + y * 0.6, 3);
      const light = curtain * rays * 0.62;
      r += light * (0.12 + Math.max(0, above) * 1.1);
      g += light * 0.95;
      b += light * (0.42 + Math.max(0, above) * 0.9);
    } else if (weather === 'fog' || weather === 'snow') {
      const veil = noise.layers(x * 2, y * 4, 4) * 0.09;
      r += veil;
      g += veil;
      b += veil;
    }
    out[0] = r;
    out[1] = g;
    out[2] = b;
  });
  if (sky.stars > 0) canvas.stars(`${seed} stars`, sky.stars, (_, y) => (y < 0.66 ? 1 : 0.2));
  landscape(canvas, seed, sky.far, sky.near, sky.lit, sky.wall);
  if (weather === 'fog') {
    canvas.shade((x, y, out) => {
      const thick = smooth(0.45, 0.95, y + 0.25 * noise.layers(x * 2.2 + 7, y * 5, 5)) * 0.72;
      for (let c = 0; c < 3; c++) out[c] = out[c]! * (1 - thick) + 0.8 * thick;
    });
  }
  if (weather === 'snow') {
    for (let i = 0; i < 500; i++)
      canvas.glow(chance.between(0, wide), chance.next(), chance.between(0.0015, 0.004), [1, 1, 1], 0.55);
  }
  if (weather === 'storm') bolt(canvas, chance, wide);
  return canvas;
}

function bolt(canvas: Canvas, chance: Chance, wide: number): void {
  let x = wide * chance.between(0.15, 0.85);
  for (let y = 0; y < 0.68; y += 0.0035) {
    x += chance.between(-0.0075, 0.0075);
    canvas.glow(x, y, 0.0018, [0.95, 0.92, 1], 1.6);
    canvas.glow(x, y, 0.014, [0.6, 0.6, 0.9], 0.06);
  }
}

export function milkyway(canvas: Canvas, seed: string): Canvas {
  const chance = new Chance(seed);
  const noise = new Noise(seed);
  const wide = canvas.width / canvas.height;
  const slope = chance.between(-0.9, 0.9) || 0.5;
  const band = (x: number, y: number) => {
    const d = (y - 0.38 - slope * (x - wide / 2)) / Math.hypot(1, slope);
    return Math.exp(-d * d * 16);
  };
  canvas.shade((x, y, out) => {
    const b = band(x, y);
    const cloud = 0.55 + 0.8 * noise.layers(x * 4, y * 4, 6);
    const dust = smooth(0.02, 0.35, noise.layers(x * 3.2 + 9, y * 3.2, 6)) * smooth(0.4, 0.95, b);
    const light = b * Math.max(0.1, cloud) * 0.46 * (1 - 0.8 * dust);
    out[0] = 0.02 + 0.05 * y + light * 0.95;
    out[1] = 0.028 + 0.06 * y + light * 0.86;
    out[2] = 0.055 + 0.09 * y + light * 0.92;
  });
  canvas.stars(`${seed} stars`, 2600, (x, y) => (y < 0.7 ? 0.3 + 0.7 * band(x, y) : 0.1));
  landscape(canvas, seed, [0.03, 0.04, 0.06], [0.008, 0.01, 0.014], 0.5, [0.08, 0.09, 0.12]);
  return canvas;
}

export function trails(canvas: Canvas, seed: string): Canvas {
  const chance = new Chance(seed);
  const wide = canvas.width / canvas.height;
  const px = wide * chance.between(0.3, 0.7);
  const py = chance.between(0.25, 0.45);
  const sweep = chance.between(0.5, 1.0);
  canvas.shade((_x, y, out) => {
    out[0] = 0.02 + 0.07 * y;
    out[1] = 0.03 + 0.09 * y;
    out[2] = 0.07 + 0.14 * y;
  });
  for (let i = 0; i < 520; i++) {
    const r = Math.pow(chance.next(), 0.6) * 1.25;
    const start = chance.between(0, 2 * Math.PI);
    const warm = chance.next();
    const colour: Colour = warm < 0.3 ? [1, 0.8, 0.6] : warm < 0.6 ? [1, 1, 0.95] : [0.7, 0.82, 1];
    const strength = 0.1 + 0.5 * Math.pow(chance.next(), 3);
    const steps = Math.ceil(r * sweep * canvas.height * 0.9);
    for (let s = 0; s < steps; s++) {
      const angle = start + (sweep * s) / steps;
      const at =
        Math.floor((py + r * Math.sin(angle)) * canvas.height) * canvas.width +
        Math.floor((px + r * Math.cos(angle)) * canvas.height);
      const column = Math.floor((px + r * Math.cos(angle)) * canvas.height);
      const row = Math.floor((py + r * Math.sin(angle)) * canvas.height);
      if (column < 0 || column >= canvas.width || row < 0 || row >= canvas.height) continue;
      for (let c = 0; c < 3; c++)
        canvas.data[at * 3 + c] = Math.min(1.2, canvas.data[at * 3 + c]! + strength * colour[c]!);
    }
  }
  landscape(canvas, seed, [0.05, 0.06, 0.09], [0.012, 0.014, 0.02], 0.6, [0.1, 0.1, 0.13]);
  return canvas;
}
