import { coverCrop, type FocalPoint } from '../focal.ts';
import type { Recipe, Size } from './recipe.ts';

export interface Extent {
  /** In pixels. */
  width: number;
  height: number;
}
export interface Box extends Extent {
  /** In pixels, from the left and from the top. */
  x: number;
  y: number;
}
export interface Point {
  x: number;
  y: number;
}

/** What a recipe makes of an image of a certain size. */
export interface Geometry {
  /** The image after quarter turns. */
  oriented: Extent;
  /** What is kept of it, in whole pixels; it may reach beyond it. */
  frame: Box;
  /** Something of the frame is not of the image. */
  beyond: boolean;
  output: Extent;
  /** It would have become larger, and was not asked to. */
  keptSmall: boolean;
  /** Where a point of the upright image comes to lie in the output; both in parts of width and height, outside where beyond 0 to 1. */
  toOutput(point: Point): Point;
  /** The other way. */
  toSource(point: Point): Point;
  /** Where a point of the oriented image lies in the output, before it is straightened. */
  orientedToOutput(point: Point): Point;
}

/** The same recipe before its size: its frame in pixels of the oriented image. */
export function unsized({ size: _, ...rest }: Recipe): Recipe {
  return rest;
}

/** The largest part of an image, of its own shape and about its middle, that lies within it once it is straightened. */
export function withinStraightened({ width, height }: Extent, degrees: number): number {
  const angle = (Math.abs(degrees) * Math.PI) / 180;
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  return Math.min(width / (width * cos + height * sin), height / (width * sin + height * cos));
}

/**
 * The exact size of what a recipe makes, and where every point goes.
 * @param size of the upright image, in pixels
 * @param focal what must be seen where it is cropped to fill a size; its middle otherwise
 * @throws RangeError with a sentence when no pixel would be left
 */
export function geometry(recipe: Recipe, size: Extent, focal: FocalPoint = { x: 0.5, y: 0.5 }): Geometry {
  const { turns = 0, mirror = false, flip = false, straighten = 0 } = recipe.orient ?? {};
  const oriented =
    turns % 2 === 1 ? { width: size.height, height: size.width } : { width: size.width, height: size.height };
  const angle = (straighten * Math.PI) / 180;
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];

  /** From the upright image to the oriented one, both in parts. */
  const orient = ({ x, y }: Point): Point => {
    const turned = [
      { x, y },
      { x: 1 - y, y: x },
      { x: 1 - x, y: 1 - y },
      { x: y, y: 1 - x },
    ][turns]!;
    return { x: mirror ? 1 - turned.x : turned.x, y: flip ? 1 - turned.y : turned.y };
  };
  const disorient = (point: Point): Point => {
    const x = mirror ? 1 - point.x : point.x;
    const y = flip ? 1 - point.y : point.y;
    return [
      { x, y },
      { x: y, y: 1 - x },
      { x: 1 - x, y: 1 - y },
      { x: 1 - y, y: x },
    ][turns]!;
  };
  /** About the middle, clockwise, in pixels of the oriented image. */
  const rotate = ({ x, y }: Point, way: 1 | -1): Point => {
    const [dx, dy] = [x - oriented.width / 2, y - oriented.height / 2];
    return {
      x: oriented.width / 2 + dx * cos - way * dy * sin,
      y: oriented.height / 2 + way * dx * sin + dy * cos,
    };
  };

  let frame = frameOf(recipe, oriented);
  let keptSmall = false;
  let output: Extent = { width: frame.width, height: frame.height };
  if (recipe.size) {
    const wanted = recipe.size;
    if (wanted.by === 'cover') {
      const seen = point(orient(focal), oriented, frame, rotate);
      frame = covering(frame, wanted.width / wanted.height, seen);
      output = { width: frame.width, height: frame.height };
    }
    const ratio = ratioOf(wanted, output);
    if (ratio > 1 && !wanted.enlarge) keptSmall = true;
    else output = sized(wanted, output, ratio);
  }
  const corners = [
    { x: frame.x, y: frame.y },
    { x: frame.x + frame.width, y: frame.y },
    { x: frame.x, y: frame.y + frame.height },
    { x: frame.x + frame.width, y: frame.y + frame.height },
  ].map((corner) => rotate(corner, -1));
  const beyond = corners.some(
    ({ x, y }) => x < -0.5 || y < -0.5 || x > oriented.width + 0.5 || y > oriented.height + 0.5,
  );
  const orientedToOutput = (part: Point): Point => {
    const at = rotate({ x: part.x * oriented.width, y: part.y * oriented.height }, 1);
    return { x: (at.x - frame.x) / frame.width, y: (at.y - frame.y) / frame.height };
  };
  return {
    oriented,
    frame,
    beyond,
    output,
    keptSmall,
    toOutput: (from) => orientedToOutput(orient(from)),
    orientedToOutput,
    toSource: (to) => {
      const at = rotate({ x: frame.x + to.x * frame.width, y: frame.y + to.y * frame.height }, -1);
      return disorient({ x: at.x / oriented.width, y: at.y / oriented.height });
    },
  };
}

/** Where a point of the oriented image lies in a frame, in parts of it, no farther than its edge. */
function point(
  part: Point,
  oriented: Extent,
  frame: Box,
  rotate: (at: Point, way: 1 | -1) => Point,
): FocalPoint {
  const at = rotate({ x: part.x * oriented.width, y: part.y * oriented.height }, 1);
  const held = (value: number) => Math.min(1, Math.max(0, value));
  return { x: held((at.x - frame.x) / frame.width), y: held((at.y - frame.y) / frame.height) };
}

function frameOf(recipe: Recipe, oriented: Extent): Box {
  const { frame } = recipe;
  if (!frame) {
    const share = withinStraightened(oriented, recipe.orient?.straighten ?? 0);
    // What is cut from a straightened image is cut to whole pixels, inwards and about the same middle.
    const cut = (side: number) => {
      const kept = Math.max(1, Math.floor(side * share));
      return kept > 1 && (side - kept) % 2 === 1 ? kept - 1 : kept;
    };
    const width = share === 1 ? oriented.width : cut(oriented.width);
    const height = share === 1 ? oriented.height : cut(oriented.height);
    return {
      x: Math.round((oriented.width - width) / 2),
      y: Math.round((oriented.height - height) / 2),
      width,
      height,
    };
  }
  const width = Math.round(frame.width * oriented.width);
  const height = Math.round(frame.height * oriented.height);
  if (width < 1 || height < 1)
    throw new RangeError('This frame leaves no pixel of the image. Make it larger.');
  return { x: Math.round(frame.x * oriented.width), y: Math.round(frame.y * oriented.height), width, height };
}

/** The largest part of a frame with this shape; what must be seen stays as it can. */
function covering(frame: Box, ratio: number, focal: FocalPoint): Box {
  const crop = coverCrop(frame, ratio, focal);
  const width = Math.max(1, Math.round(crop.width));
  const height = Math.max(1, Math.round(crop.height));
  return {
    x: frame.x + Math.min(frame.width - width, Math.round(crop.left)),
    y: frame.y + Math.min(frame.height - height, Math.round(crop.top)),
    width,
    height,
  };
}

/** By how much a size would scale what is framed. */
function ratioOf(size: Size, { width, height }: Extent): number {
  switch (size.by) {
    case 'fit':
    case 'cover':
      return Math.min(size.width / width, size.height / height);
    case 'width':
      return size.width / width;
    case 'height':
      return size.height / height;
    case 'longest':
      return size.pixels / Math.max(width, height);
    case 'percent':
      return size.percent / 100;
  }
}

function sized(size: Size, { width, height }: Extent, ratio: number): Extent {
  // Filled exactly: the frame has the shape, but for the rounding to whole pixels.
  if (size.by === 'cover') return { width: size.width, height: size.height };
  const scaled = (side: number) => Math.max(1, Math.round(side * ratio));
  return { width: scaled(width), height: scaled(height) };
}
