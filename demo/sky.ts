import { Canvas, mix, smooth, type Colour } from './canvas.ts';
import { Chance, Noise } from './chance.ts';

/** What a picture shows. The same motif with the same seed is the same picture. */
export const MOTIFS = [
  'galaxy',
  'nebula',
  'moon',
  'jupiter',
  'saturn',
  'mars',
  'trails',
  'dome',
  'milkyway',
  'cluster',
  'comet',
  'sun',
] as const;
export type Motif = (typeof MOTIFS)[number];

/** Weather of the dome's pictures. */
export type Weather = 'dusk' | 'night' | 'snow' | 'fog' | 'aurora' | 'morning' | 'storm';

export interface Scene {
  motif: Motif;
  seed: string;
  weather?: Weather;
  /** Moon: 0 new, 0.5 full, 1 new again. */
  phase?: number;
}

export function paint(scene: Scene, width: number, height: number): Canvas {
  const canvas = new Canvas(width, height);
  switch (scene.motif) {
    case 'galaxy':
      return galaxy(canvas, scene.seed);
    case 'nebula':
      return nebula(canvas, scene.seed);
    case 'moon':
      return moon(canvas, scene.seed, scene.phase ?? 0.35);
    case 'jupiter':
    case 'mars':
      return planet(canvas, scene.seed, scene.motif);
    case 'saturn':
      return saturn(canvas, scene.seed);
    case 'trails':
      return trails(canvas, scene.seed);
    case 'dome':
      return dome(canvas, scene.seed, scene.weather ?? 'dusk');
    case 'milkyway':
      return milkyway(canvas, scene.seed);
    case 'cluster':
      return cluster(canvas, scene.seed);
    case 'comet':
      return comet(canvas, scene.seed);
    case 'sun':
      return sun(canvas, scene.seed);
  }
}

function galaxy(canvas: Canvas, seed: string): Canvas {
  const chance = new Chance(seed);
  const noise = new Noise(seed);
  const wide = canvas.width / canvas.height;
  const cx = wide * chance.between(0.42, 0.58);
  const cy = chance.between(0.42, 0.58);
  const tilt = chance.between(0.35, 0.95);
  const turn = chance.between(0, Math.PI);
  const wind = chance.between(2.2, 4.2) * (chance.next() < 0.5 ? -1 : 1);
  const arms = chance.pick([2, 2, 3]);
  const size = chance.between(0.3, 0.42);
  const warm: Colour = [1, 0.83, 0.58];
  const cool: Colour = chance.pick([
    [0.45, 0.62, 1],
    [0.55, 0.6, 0.95],
    [0.4, 0.75, 0.95],
  ]);
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  canvas.shade((x, y, out) => {
    const dx = x - cx;
    const dy = y - cy;
    const u = dx * cos + dy * sin;
    const v = (-dx * sin + dy * cos) / tilt;
    const r = Math.hypot(u, v) / size;
    out[0] = 0.012;
    out[1] = 0.014;
    out[2] = 0.026;
    if (r > 2.2) return;
    const angle = Math.atan2(v, u);
    const wave = Math.cos(arms * (angle - wind * Math.log(r + 0.08)));
    const arm = Math.pow(0.5 + 0.5 * wave, 2.6);
    const clumps = 0.62 + 0.9 * noise.layers(u * 14 + 3, v * 14, 5);
    const dust = smooth(0.15, 0.6, noise.ridges(u * 7 + 40, v * 7, 4) - 0.55) * smooth(0.05, 0.3, r);
    const disc = Math.exp(-r * 1.55) * (0.24 + 1.6 * arm * Math.max(0.1, clumps));
    const core = 1.35 * Math.exp(-r * r * 34) + 0.55 * Math.exp(-r * 5.5);
    const pink = smooth(0.35, 0.75, noise.at(u * 34, v * 34)) * arm * Math.exp(-r * 2) * 0.55;
    const blue = smooth(0.12, 0.75, r);
    const light = disc * (1 - 0.75 * dust);
    const colour = mix(warm, cool, blue);
    out[0] += light * colour[0] + core * warm[0] + pink;
    out[1] += light * colour[1] + core * warm[1] + pink * 0.3;
    out[2] += light * colour[2] + core * warm[2] + pink * 0.5;
  });
  return canvas.stars(`${seed} stars`, 900);
}

function nebula(canvas: Canvas, seed: string): Canvas {
  const chance = new Chance(seed);
  const noise = new Noise(seed);
  const wide = canvas.width / canvas.height;
  const palettes: [Colour, Colour, Colour][] = [
    [
      [0.95, 0.25, 0.22],
      [0.2, 0.55, 0.62],
      [1, 0.75, 0.5],
    ],
    [
      [0.75, 0.2, 0.4],
      [0.25, 0.3, 0.75],
      [0.95, 0.7, 0.75],
    ],
    [
      [0.85, 0.5, 0.2],
      [0.12, 0.5, 0.55],
      [1, 0.9, 0.7],
    ],
    [
      [0.3, 0.6, 0.35],
      [0.55, 0.2, 0.45],
      [0.9, 0.95, 0.75],
    ],
  ];
  const [first, second, bright] = chance.pick(palettes);
  const cx = wide * chance.between(0.35, 0.65);
  const cy = chance.between(0.35, 0.65);
  const zoom = chance.between(1.6, 2.6);
  canvas.shade((x, y, out) => {
    const wx = noise.layers(x * zoom, y * zoom, 4);
    const wy = noise.layers(x * zoom + 71, y * zoom + 13, 4);
    const gas = noise.layers(x * zoom + wx * 2.2 + 5, y * zoom + wy * 2.2, 6);
    const threads = Math.pow(
      Math.max(0, noise.ridges(x * 3.2 + wx * 1.6, y * 3.2 + wy * 1.6, 4) - 0.52) * 2.2,
      2.2,
    );
    const d = Math.hypot((x - cx) * 0.8, y - cy);
    const body = Math.max(0, smooth(-0.25, 0.5, gas) * Math.exp(-d * d * 4.2));
    const dark = smooth(0.05, 0.4, noise.layers(x * 4 + 19, y * 4 + wy * 3, 5)) * 0.78;
    const hue = smooth(-0.3, 0.3, wx + 0.35 * (d - 0.3));
    const colour = mix(first, second, hue);
    const light = body * 1.05 * (1 - dark);
    const rim = threads * Math.exp(-d * d * 5) * 0.55;
    out[0] = 0.014 + light * colour[0] + rim * bright[0] + 0.5 * body * body * bright[0] * (1 - dark);
    out[1] = 0.014 + light * colour[1] + rim * bright[1] + 0.5 * body * body * bright[1] * (1 - dark);
    out[2] = 0.024 + light * colour[2] + rim * bright[2] + 0.5 * body * body * bright[2] * (1 - dark);
  });
  return canvas.stars(`${seed} stars`, 1500);
}

interface Crater {
  x: number;
  y: number;
  r: number;
}

function craters(seed: string, count: number): Crater[] {
  const chance = new Chance(`${seed} craters`);
  return Array.from({ length: count }, () => {
    const angle = chance.between(0, 2 * Math.PI);
    const d = Math.sqrt(chance.next()) * 0.97;
    return { x: Math.cos(angle) * d, y: Math.sin(angle) * d, r: 0.012 + 0.12 * Math.pow(chance.next(), 4) };
  });
}

function moon(canvas: Canvas, seed: string, phase: number): Canvas {
  const noise = new Noise('the one moon');
  const holes = craters('the one moon', 420);
  const chance = new Chance(seed);
  const wide = canvas.width / canvas.height;
  const size = chance.between(0.36, 0.43);
  const cx = wide * chance.between(0.46, 0.54);
  const lightAngle = phase * 2 * Math.PI;
  const [lx, lz] = [Math.sin(lightAngle), -Math.cos(lightAngle)];
  // Height of the ground on a grid, so that each crater is drawn once.
  const grid = 700;
  const ground = new Float32Array(grid * grid);
  for (let j = 0; j < grid; j++) {
    for (let i = 0; i < grid; i++) {
      ground[j * grid + i] = 0.02 * noise.layers((i / grid) * 22, (j / grid) * 22, 5);
    }
  }
  for (const hole of holes) {
    const reach = hole.r * 1.7;
    const x0 = Math.max(0, Math.floor(((hole.x - reach + 1) / 2) * grid));
    const x1 = Math.min(grid - 1, Math.ceil(((hole.x + reach + 1) / 2) * grid));
    const y0 = Math.max(0, Math.floor(((hole.y - reach + 1) / 2) * grid));
    const y1 = Math.min(grid - 1, Math.ceil(((hole.y + reach + 1) / 2) * grid));
    for (let j = y0; j <= y1; j++) {
      for (let i = x0; i <= x1; i++) {
        const d = Math.hypot((i / grid) * 2 - 1 - hole.x, (j / grid) * 2 - 1 - hole.y) / hole.r;
        const bowl = d < 1 ? (d * d - 1) * 0.55 : 0;
        const rim = Math.exp(-((d - 1) * (d - 1)) * 18) * 0.32;
        ground[j * grid + i]! += (bowl + rim) * hole.r * 0.5;
      }
    }
  }
  const height = (x: number, y: number) => {
    const i = Math.min(grid - 2, Math.max(1, ((x + 1) / 2) * grid));
    const j = Math.min(grid - 2, Math.max(1, ((y + 1) / 2) * grid));
    const i0 = Math.floor(i);
    const j0 = Math.floor(j);
    const fx = i - i0;
    const fy = j - j0;
    const a = ground[j0 * grid + i0]! * (1 - fx) + ground[j0 * grid + i0 + 1]! * fx;
    const b = ground[(j0 + 1) * grid + i0]! * (1 - fx) + ground[(j0 + 1) * grid + i0 + 1]! * fx;
    return a * (1 - fy) + b * fy;
  };
  canvas.shade((x, y, out) => {
    out[0] = 0.01;
    out[1] = 0.011;
    out[2] = 0.018;
    const u = (x - cx) / size;
    const v = (y - 0.5) / size;
    const rr = u * u + v * v;
    if (rr > 1.02) return;
    const z = Math.sqrt(Math.max(0, 1 - rr));
    const e = 0.004;
    const slopeX = (height(u + e, v) - height(u - e, v)) / (2 * e);
    const slopeY = (height(u, v + e) - height(u, v - e)) / (2 * e);
    const nx = u - slopeX * 0.9;
    const ny = v - slopeY * 0.9;
    const nz = z + 0.02;
    const length = Math.hypot(nx, ny, nz);
    const lit = Math.max(0, (nx * lx + nz * lz) / length);
    const seas = smooth(-0.05, 0.22, noise.layers(u * 1.6 + 4, v * 1.6 + 9, 5));
    const ground2 = (0.82 - 0.4 * seas) * (0.9 + 0.25 * noise.layers(u * 18, v * 18, 4));
    const edge = smooth(1.005, 0.985, rr);
    const light = edge * (Math.pow(lit, 0.8) * ground2 * 1.12 + 0.012);
    out[0] += light;
    out[1] += light * 0.97;
    out[2] += light * 0.91;
  });
  return canvas;
}

function planet(canvas: Canvas, seed: string, which: 'jupiter' | 'mars'): Canvas {
  const chance = new Chance(seed);
  const noise = new Noise(seed);
  const wide = canvas.width / canvas.height;
  const size = chance.between(0.34, 0.4);
  const cx = wide / 2;
  const turn = chance.between(0, 6);
  canvas.shade((x, y, out) => {
    out[0] = 0.008;
    out[1] = 0.008;
    out[2] = 0.014;
    const u = (x - cx) / size;
    const v = ((y - 0.5) / size) * (which === 'jupiter' ? 1.06 : 1);
    const rr = u * u + v * v;
    if (rr > 1.01) return;
    const z = Math.sqrt(Math.max(0, 1 - rr));
    const longitude = Math.atan2(u, z) + turn;
    const latitude = Math.asin(Math.max(-1, Math.min(1, v)));
    let colour: Colour;
    if (which === 'jupiter') {
      const swirl = 0.09 * noise.layers(longitude * 5, latitude * 16, 5);
      const band =
        Math.sin((latitude + swirl) * 13) * 0.5 +
        0.5 +
        0.4 * noise.layers(longitude * 2, (latitude + swirl) * 26, 4);
      colour = mix([0.62, 0.42, 0.3], [0.96, 0.9, 0.78], smooth(0.1, 0.9, band));
      const spotX = ((longitude - turn - 0.35 + Math.PI) % (2 * Math.PI)) - Math.PI;
      const spot = Math.exp(-((spotX * spotX) / 0.035 + ((latitude - 0.36) * (latitude - 0.36)) / 0.008));
      colour = mix(colour, [0.78, 0.36, 0.24], Math.min(1, spot * 1.2));
    } else {
      const land = noise.layers(longitude * 2.2, latitude * 2.6, 6);
      colour = mix([0.85, 0.5, 0.3], [0.36, 0.2, 0.15], smooth(-0.05, 0.3, land));
      const cap = smooth(1.12, 1.25, Math.abs(latitude) + 0.08 * noise.at(longitude * 6, 3));
      colour = mix(colour, [0.96, 0.95, 0.94], cap);
    }
    const lit = Math.pow(Math.max(0, u * 0.35 + z * 0.94 - v * 0.1), 0.75) * smooth(1.005, 0.97, rr);
    out[0] += colour[0] * lit;
    out[1] += colour[1] * lit;
    out[2] += colour[2] * lit;
  });
  return canvas.stars(`${seed} stars`, 60);
}

function saturn(canvas: Canvas, seed: string): Canvas {
  const chance = new Chance(seed);
  const noise = new Noise(seed);
  const wide = canvas.width / canvas.height;
  const size = chance.between(0.19, 0.23);
  const tilt = chance.between(0.22, 0.4);
  const turn = chance.between(-0.3, 0.3);
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  canvas.shade((x, y, out) => {
    out[0] = 0.008;
    out[1] = 0.008;
    out[2] = 0.014;
    const dx = (x - wide / 2) / size;
    const dy = (y - 0.5) / size;
    const u = dx * cos + dy * sin;
    const v = -dx * sin + dy * cos;
    const rr = u * u + v * v * 1.12;
    const z = Math.sqrt(Math.max(0, 1 - rr));
    if (rr < 1) {
      const latitude = Math.asin(Math.max(-1, Math.min(1, v * 0.92 + z * 0.3)));
      const band = 0.5 + 0.5 * Math.sin(latitude * 19 + noise.at(u * 2, latitude * 9));
      const colour = mix([0.78, 0.62, 0.4], [0.96, 0.87, 0.66], band);
      const lit = Math.pow(Math.max(0, z * 0.95 + u * 0.25), 0.7) * smooth(1, 0.94, rr);
      out[0] += colour[0] * lit;
      out[1] += colour[1] * lit;
      out[2] += colour[2] * lit;
    }
    const ring = Math.hypot(u, v / tilt);
    const inFront = v > 0 || rr > 1;
    if (inFront && ring > 1.25 && ring < 2.3) {
      const groove = 0.62 + 0.38 * noise.at(ring * 34, 1.5) + 0.12 * noise.at(ring * 120, 7);
      const gap =
        ring > 1.93 && ring < 2.02
          ? 0.05
          : ring > 2.2
            ? 0.55
            : ring < 1.5
              ? smooth(1.24, 1.5, ring) * 0.6
              : 1;
      const shadow = v < 0 && Math.abs(u + 0.35) < 0.9 ? 0.35 : 1;
      const light = groove * gap * shadow * 0.85;
      const cover = Math.min(1, gap * 0.92);
      out[0] = out[0] * (1 - cover) + light * 0.93;
      out[1] = out[1] * (1 - cover) + light * 0.82;
      out[2] = out[2] * (1 - cover) + light * 0.64;
    }
  });
  return canvas.stars(`${seed} stars`, 90);
}

/** Height of a ridge of hills at x, from 0 to 1 of the picture's height (measured from the top). */
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

function dome(canvas: Canvas, seed: string, weather: Weather): Canvas {
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

function milkyway(canvas: Canvas, seed: string): Canvas {
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

function trails(canvas: Canvas, seed: string): Canvas {
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

function cluster(canvas: Canvas, seed: string): Canvas {
  const chance = new Chance(seed);
  const wide = canvas.width / canvas.height;
  canvas.shade((_x, _y, out) => {
    out[0] = 0.01;
    out[1] = 0.012;
    out[2] = 0.022;
  });
  canvas.stars(`${seed} field`, 500);
  const tight = chance.between(0.05, 0.09);
  for (let i = 0; i < 2600; i++) {
    const r = tight * Math.tan(chance.next() * 1.4);
    const angle = chance.between(0, 2 * Math.PI);
    const warm = chance.next();
    const colour: Colour = warm < 0.5 ? [1, 0.84, 0.62] : warm < 0.8 ? [1, 0.96, 0.9] : [0.7, 0.84, 1];
    canvas.glow(
      wide / 2 + r * Math.cos(angle),
      0.5 + r * Math.sin(angle),
      0.0014,
      colour,
      0.2 + 0.9 * Math.pow(chance.next(), 5),
    );
  }
  canvas.glow(wide / 2, 0.5, tight * 1.6, [1, 0.88, 0.68], 0.34);
  return canvas;
}

function comet(canvas: Canvas, seed: string): Canvas {
  const chance = new Chance(seed);
  const noise = new Noise(seed);
  const wide = canvas.width / canvas.height;
  const hx = wide * chance.between(0.25, 0.4);
  const hy = chance.between(0.6, 0.72);
  const angle = chance.between(-0.9, -0.5);
  canvas.shade((x, y, out) => {
    const dx = x - hx;
    const dy = y - hy;
    const along = dx * Math.cos(angle) + dy * Math.sin(angle);
    const across = -dx * Math.sin(angle) + dy * Math.cos(angle);
    out[0] = 0.014 + 0.03 * y;
    out[1] = 0.02 + 0.035 * y;
    out[2] = 0.045 + 0.05 * y;
    if (along < -0.02) return;
    const dust =
      Math.exp(-Math.pow((across - along * along * 0.35) / (0.012 + along * 0.16), 2)) *
      Math.exp(-along * 2.6) *
      0.62;
    const streak = 0.75 + 0.4 * noise.layers(along * 2, across * 50, 3);
    const ion =
      Math.exp(-Math.pow((across + along * 0.1) / (0.006 + along * 0.035), 2)) *
      Math.exp(-along * 1.9) *
      0.4 *
      streak;
    out[0] += dust * streak + ion * 0.3;
    out[1] += dust * 0.92 * streak + ion * 0.6;
    out[2] += dust * 0.78 * streak + ion;
  });
  canvas.glow(hx, hy, 0.011, [0.9, 1, 0.92], 2.2);
  canvas.glow(hx, hy, 0.04, [0.5, 0.85, 0.8], 0.4);
  return canvas.stars(`${seed} stars`, 800);
}

function sun(canvas: Canvas, seed: string): Canvas {
  const chance = new Chance(seed);
  const noise = new Noise(seed);
  const wide = canvas.width / canvas.height;
  const spots = Array.from({ length: chance.whole(3, 7) }, () => ({
    x: chance.between(-0.65, 0.65),
    y: chance.pick([-0.3, 0.3]) + chance.between(-0.12, 0.12),
    r: chance.between(0.015, 0.045),
  }));
  canvas.shade((x, y, out) => {
    const u = (x - wide / 2) / 0.4;
    const v = (y - 0.5) / 0.4;
    const rr = Math.hypot(u, v);
    if (rr > 1) {
      const flame = Math.exp(-(rr - 1) * (22 - 12 * noise.layers(Math.atan2(v, u) * 3, rr * 3, 4)));
      out[0] = 0.01 + flame * 0.55;
      out[1] = 0.008 + flame * 0.17;
      out[2] = 0.008 + flame * 0.04;
      return;
    }
    const limb = Math.pow(Math.sqrt(1 - rr * rr), 0.42);
    const grain = 0.92 + 0.22 * noise.layers(u * 26, v * 26, 4) + 0.12 * noise.ridges(u * 6, v * 6, 3);
    let light = limb * grain;
    for (const spot of spots) {
      const d = Math.hypot(u - spot.x, v - spot.y) / spot.r + 0.3 * noise.at(u * 40, v * 40);
      light *= 1 - 0.82 * smooth(1, 0.5, d) - 0.3 * smooth(2, 1.1, d);
    }
    out[0] = Math.max(0.05, light * 1.02);
    out[1] = Math.max(0.02, light * 0.64);
    out[2] = Math.max(0.01, light * 0.24);
  });
  return canvas;
}
