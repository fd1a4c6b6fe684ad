import { Canvas } from '../canvas.ts';
import { cluster, comet, galaxy, nebula } from './deep-sky.ts';
import { dome, milkyway, trails } from './landscape.ts';
import type { Scene } from './scene.ts';
import { moon, planet, saturn, sun } from './solar-system.ts';

/** Paints a scene. The same scene at the same size is the same image. */
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
