/** A point of an image: parts of its width and height, from 0 to 1. */
export interface FocalPoint {
  x: number;
  y: number;
}

/** Shapes that screens make of an image that fills them, as width over height. */
export const SCREENS = [
  { name: 'phone', ratio: 9 / 16 },
  { name: 'tablet', ratio: 4 / 3 },
  { name: 'wide screen', ratio: 21 / 9 },
] as const;

/** Reads a focal point as records keep it: percents '31.5 40'. Undefined for '' and for anything else. */
export function readFocal(text: string): FocalPoint | undefined {
  const match = /^(\d{1,3}(?:\.\d+)?) (\d{1,3}(?:\.\d+)?)$/.exec(text);
  if (!match) return undefined;
  const [x, y] = [Number(match[1]), Number(match[2])];
  return x <= 100 && y <= 100 ? { x: x / 100, y: y / 100 } : undefined;
}

/** Writes a focal point in whole percents; the middle is '', as nothing need be said of it. */
export function writeFocal({ x, y }: FocalPoint): string {
  const percent = (part: number) => Math.round(Math.min(1, Math.max(0, part)) * 100);
  return percent(x) === 50 && percent(y) === 50 ? '' : `${percent(x)} ${percent(y)}`;
}

/**
 * The position by which CSS keeps a focal point in sight whatever the crop (CSS Images 3, object-position): the point at
 * p percent of the image comes to lie at p percent of the box.
 */
export function positionOf(focal: FocalPoint | undefined): string {
  return focal ? `${Math.round(focal.x * 100)}% ${Math.round(focal.y * 100)}%` : '50% 50%';
}

/**
 * What is seen of an image that fills a box (object-fit: cover).
 * @param ratio width over height of the box
 * @returns offsets and size in pixels of the image
 */
export function coverCrop(
  picture: { width: number; height: number },
  ratio: number,
  focal: FocalPoint = { x: 0.5, y: 0.5 },
): { left: number; top: number; width: number; height: number } {
  const width = Math.min(picture.width, picture.height * ratio);
  const height = Math.min(picture.height, picture.width / ratio);
  return {
    left: (picture.width - width) * focal.x,
    top: (picture.height - height) * focal.y,
    width,
    height,
  };
}
