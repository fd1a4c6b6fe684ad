import type { Extent } from './geometry.ts';
import type { Frame } from './recipe.ts';

/** How frames are drawn: parts of the oriented image in, parts out; a ratio is of pixels. */

export const WHOLE: Frame = { x: 0, y: 0, width: 1, height: 1 };

/** Which edges are drawn: -1 the left or upper one, 1 the right or lower one, 0 neither. */
export interface Grip {
  x: -1 | 0 | 1;
  y: -1 | 0 | 1;
}

/** Width to height in parts, of a ratio in pixels. */
const inParts = ([width, height]: readonly [number, number], oriented: Extent) =>
  (width / height) * (oriented.height / oriented.width);

/** The largest frame of a ratio within the image, about the middle of the one before; undefined: free again, as it is. */
export function heldTo(frame: Frame, ratio: readonly [number, number] | undefined, oriented: Extent): Frame {
  const { ratio: _, ...free } = frame;
  if (!ratio) return free;
  const shape = inParts(ratio, oriented);
  const width = Math.min(1, shape);
  const height = width / shape;
  const middle = { x: frame.x + frame.width / 2, y: frame.y + frame.height / 2 };
  const held = (at: number, side: number) => Math.min(1 - side, Math.max(0, at - side / 2));
  return { ...free, x: held(middle.x, width), y: held(middle.y, height), width, height, ratio: [...ratio] };
}

/** Moved by so many pixels of the oriented image, beyond it too; never so far that nothing of it is left in the frame. */
export function moved(frame: Frame, by: { x: number; y: number }, oriented: Extent): Frame {
  const least = { x: 1 / oriented.width, y: 1 / oriented.height };
  const held = (at: number, side: number, one: number) => Math.min(1 - one, Math.max(one - side, at));
  return {
    ...frame,
    x: held(frame.x + by.x / oriented.width, frame.width, least.x),
    y: held(frame.y + by.y / oriented.height, frame.height, least.y),
  };
}

/**
 * Drawn larger or smaller at a grip by so many pixels of the oriented image; the opposite edge stays. A frame that is held
 * to a ratio keeps it.
 */
export function drawn(frame: Frame, grip: Grip, by: { x: number; y: number }, oriented: Extent): Frame {
  const least = { x: 8 / oriented.width, y: 8 / oriented.height };
  let width = Math.max(least.x, frame.width + (grip.x * by.x) / oriented.width);
  let height = Math.max(least.y, frame.height + (grip.y * by.y) / oriented.height);
  if (frame.ratio) {
    const shape = inParts(frame.ratio, oriented);
    // The way that was drawn farther leads.
    const leads =
      grip.y === 0 ||
      (grip.x !== 0 && Math.abs(width - frame.width) >= Math.abs(height - frame.height) * shape);
    if (leads) height = width / shape;
    else width = height * shape;
  }
  const most = 8;
  if (width > most || height > most) return frame;
  const at = (start: number, before: number, after: number, way: number) =>
    way < 0 ? start + before - after : way > 0 ? start : start + (before - after) / 2;
  return {
    ...frame,
    width,
    height,
    x: at(frame.x, frame.width, width, grip.x),
    y: at(frame.y, frame.height, height, grip.y),
  };
}

/** A frame in whole pixels of the oriented image, as people read and type it. */
export const inPixels = (frame: Frame, oriented: Extent) => ({
  x: Math.round(frame.x * oriented.width),
  y: Math.round(frame.y * oriented.height),
  width: Math.round(frame.width * oriented.width),
  height: Math.round(frame.height * oriented.height),
});

/** One number typed: the others stay, but a ratio is kept. */
export function typed(
  frame: Frame,
  which: 'x' | 'y' | 'width' | 'height',
  pixels: number,
  oriented: Extent,
): Frame {
  const side = which === 'x' || which === 'width' ? oriented.width : oriented.height;
  if (which === 'x' || which === 'y') return { ...frame, [which]: pixels / side };
  const now = inPixels(frame, oriented);
  const grip: Grip = which === 'width' ? { x: 1, y: 0 } : { x: 0, y: 1 };
  const by = { x: pixels - now.width, y: pixels - now.height };
  const made = drawn(frame, grip, by, oriented);
  // Drawn from its left upper corner, not about its middle.
  return { ...made, x: frame.x, y: frame.y, [which]: Math.max(1, pixels) / side };
}

/** What a straightened line says: degrees that make it level or upright, whichever is nearer. @param line in pixels */
export function levelling(line: { from: { x: number; y: number }; to: { x: number; y: number } }): number {
  const angle = (Math.atan2(line.to.y - line.from.y, line.to.x - line.from.x) * 180) / Math.PI;
  const off = angle - 90 * Math.round(angle / 90);
  return Math.round(-off * 10) / 10 || 0;
}
