import type { Canvas } from '../canvas.ts';
import { mix, smooth, type Colour } from '../canvas.ts';
import { Chance, Noise } from '../chance.ts';

export function galaxy(canvas: Canvas, seed: string): Canvas {
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

export function nebula(canvas: Canvas, seed: string): Canvas {
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

export function cluster(canvas: Canvas, seed: string): Canvas {
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

export function comet(canvas: Canvas, seed: string): Canvas {
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
