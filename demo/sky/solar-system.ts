import type { Canvas } from '../canvas.ts';
import { mix, smooth, type Colour } from '../canvas.ts';
import { Chance, Noise } from '../chance.ts';

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

export function moon(canvas: Canvas, seed: string, phase: number): Canvas {
  const noise = new Noise('the one moon');
  const holes = craters('the one moon', 420);
  const chance = new Chance(seed);
  const wide = canvas.width / canvas.height;
  const size = chance.between(0.36, 0.43);
  const cx = wide * chance.between(0.46, 0.54);
  // It hangs in the sky another way at every hour.
  const lean = chance.between(-0.9, 0.9);
  const [cos, sin] = [Math.cos(lean), Math.sin(lean)];
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
  const height = (u: number, v: number) => {
    const [x, y] = [u * cos + v * sin, v * cos - u * sin];
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
    const [gu, gv] = [u * cos + v * sin, v * cos - u * sin];
    const seas = smooth(-0.05, 0.22, noise.layers(gu * 1.6 + 4, gv * 1.6 + 9, 5));
    const ground2 = (0.82 - 0.4 * seas) * (0.9 + 0.25 * noise.layers(gu * 18, gv * 18, 4));
    const edge = smooth(1.005, 0.985, rr);
    const light = edge * (Math.pow(lit, 0.8) * ground2 * 1.12 + 0.012);
    out[0] += light;
    out[1] += light * 0.97;
    out[2] += light * 0.91;
  });
  return canvas;
}

export function planet(canvas: Canvas, seed: string, which: 'jupiter' | 'mars'): Canvas {
  const chance = new Chance(seed);
  const noise = new Noise(seed);
  const wide = canvas.width / canvas.height;
  const size = chance.between(0.26, 0.41);
  const cx = wide / 2 + chance.between(-0.16, 0.16);
  const turn = chance.between(0, 6);
  // Clouds and storms move, and the camera never stands quite upright.
  const lean = which === 'jupiter' ? chance.between(-0.6, 0.6) : 0;
  const [cos, sin] = [Math.cos(lean), Math.sin(lean)];
  const bands = { many: chance.between(9, 15), from: chance.between(0, 6), spot: chance.between(-0.6, 0.7) };
  canvas.shade((x, y, out) => {
    out[0] = 0.008;
    out[1] = 0.008;
    out[2] = 0.014;
    const [px, py] = [(x - cx) / size, (y - 0.5) / size];
    const u = px * cos + py * sin;
    const v = (py * cos - px * sin) * (which === 'jupiter' ? 1.06 : 1);
    const rr = u * u + v * v;
    if (rr > 1.01) return;
    const z = Math.sqrt(Math.max(0, 1 - rr));
    const longitude = Math.atan2(u, z) + turn;
    const latitude = Math.asin(Math.max(-1, Math.min(1, v)));
    let colour: Colour;
    if (which === 'jupiter') {
      const swirl = 0.09 * noise.layers(longitude * 5, latitude * 16, 5);
      const band =
        Math.sin((latitude + swirl) * bands.many + bands.from) * 0.5 +
        0.5 +
        0.4 * noise.layers(longitude * 2, (latitude + swirl) * 26, 4);
      colour = mix([0.62, 0.42, 0.3], [0.96, 0.9, 0.78], smooth(0.1, 0.9, band));
      const spotX = ((longitude - turn - bands.spot + Math.PI) % (2 * Math.PI)) - Math.PI;
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

export function saturn(canvas: Canvas, seed: string): Canvas {
  const chance = new Chance(seed);
  const noise = new Noise(seed);
  const wide = canvas.width / canvas.height;
  const size = chance.between(0.15, 0.24);
  const tilt = chance.between(0.14, 0.5);
  const turn = chance.between(-0.6, 0.6);
  const [cx, cy] = [wide / 2 + chance.between(-0.15, 0.15), 0.5 + chance.between(-0.08, 0.08)];
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  canvas.shade((x, y, out) => {
    out[0] = 0.008;
    out[1] = 0.008;
    out[2] = 0.014;
    const dx = (x - cx) / size;
    const dy = (y - cy) / size;
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

export function sun(canvas: Canvas, seed: string): Canvas {
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
