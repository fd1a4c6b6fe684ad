import { labOf } from './lab.ts';
import type { Frame } from './recipe/recipe.ts';

/** A thing on its plain ground. */
export interface Subject {
  /** In parts of the image's width and height. */
  x: number;
  y: number;
  width: number;
  height: number;
  /** From 0 to 1: how sure it is that the thing is all within, and little else. */
  sure: number;
}
export type NoSubject = 'no plain ground' | 'nothing on it';

/** Below it a box is told as not sure. */
export const SURE = 0.5;

/** Colour distances (CIE 1976, delta E). */
const LEAST_DISTANCE = 9;
/** So far may a pixel of the border be from the ground that it still counts as ground. */
const GROUND_SPREAD = 10;
/** Share of the border that must be ground. */
const PLAIN = 0.72;
/** How much darker than its ground a shadow may be, in lightness of 0 to 100. */
const SHADOW_DEPTH = 34;

/**
 * Finds what stands on a plain ground: a product shot, a cut-out, a thing on a table. The ground may change evenly from edge to
 * edge; soft shadows belong to it.
 * @param pixels 3 or 4 bytes each, sRGB; some 300 pixels a side are enough
 */
export function subjectOf(
  pixels: Uint8Array | Uint8ClampedArray,
  width: number,
  height: number,
  channels: 3 | 4,
): Subject | NoSubject {
  const count = width * height;
  const border = borderOf(width, height);
  if (channels === 4 && seenThrough(pixels, border)) {
    const mask = new Uint8Array(count);
    for (let at = 0; at < count; at++) mask[at] = Number(pixels[4 * at + 3]! > 96);
    return boxed(mask, undefined, width, height, 1);
  }
  const lab = labOf(pixels, channels);
  const ground = groundOf(lab, border, width, height);
  const far = (at: number) => distance(lab, at, ground, width, height);
  const spreads = border.map(far).sort((a, b) => a - b);
  const plain = spreads.filter((one) => one <= GROUND_SPREAD).length / spreads.length;
  if (plain < PLAIN) return 'no plain ground';
  // Noise of the ground is no thing: the threshold lies well above it.
  const noise = spreads[Math.floor(spreads.length * 0.5)]!;
  const threshold = Math.max(LEAST_DISTANCE, 3.2 * noise + 4);
  const distances = new Float32Array(count);
  const mask = new Uint8Array(count);
  for (let at = 0; at < count; at++) {
    distances[at] = far(at);
    mask[at] = Number(distances[at]! > threshold);
  }
  const shaded = withoutShadows(mask, lab, ground, width, height, noise);
  return boxed(mask, distances, width, height, plain, shaded);
}

/** The outermost two of a hundred pixels of each side. */
function borderOf(width: number, height: number): number[] {
  const wide = Math.max(1, Math.round(Math.min(width, height) * 0.02));
  const out: number[] = [];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      if (x < wide || y < wide || x >= width - wide || y >= height - wide) out.push(y * width + x);
  return out;
}

const seenThrough = (pixels: Uint8Array | Uint8ClampedArray, border: readonly number[]) =>
  border.filter((at) => pixels[4 * at + 3]! < 96).length > 0.6 * border.length;

/** A ground that changes evenly: for each of L, a and b its value in the middle and its slopes. */
type Ground = readonly [Plane, Plane, Plane];
type Plane = readonly [middle: number, across: number, down: number];

/** Fitted to the border by least squares; what lies far off it is left out and it is fitted again. */
function groundOf(lab: Float32Array, border: readonly number[], width: number, height: number): Ground {
  const channel = (index: number) => border.map((at) => lab[3 * at + index]!).sort((a, b) => a - b);
  const median = (values: readonly number[]) => values[values.length >> 1]!;
  let ground: Ground = [0, 1, 2].map((index): Plane => [median(channel(index)), 0, 0]) as unknown as Ground;
  // What is near: first to the median, then to the plane of before; a thing at the edge pulls it no more.
  for (const near of [22, 14, 8]) {
    const used = border.filter((at) => distance(lab, at, ground, width, height) <= near);
    if (used.length < border.length / 4) break;
    ground = [0, 1, 2].map((index) => plane(lab, used, index, width, height)) as unknown as Ground;
  }
  return ground;
}

function plane(
  lab: Float32Array,
  used: readonly number[],
  index: number,
  width: number,
  height: number,
): Plane {
  // Normal equations of value = m + a x + d y, with x and y from -1/2 to 1/2.
  let [n, sx, sy, sxx, sxy, syy, sv, sxv, syv] = [0, 0, 0, 0, 0, 0, 0, 0, 0];
  for (const at of used) {
    const x = (at % width) / width - 0.5;
    const y = Math.floor(at / width) / height - 0.5;
    const value = lab[3 * at + index]!;
    n++;
    sx += x;
    sy += y;
    sxx += x * x;
    sxy += x * y;
    syy += y * y;
    sv += value;
    sxv += x * value;
    syv += y * value;
  }
  const determinant = (m: readonly number[]) =>
    m[0]! * (m[4]! * m[8]! - m[5]! * m[7]!) -
    m[1]! * (m[3]! * m[8]! - m[5]! * m[6]!) +
    m[2]! * (m[3]! * m[7]! - m[4]! * m[6]!);
  const whole = determinant([n, sx, sy, sx, sxx, sxy, sy, sxy, syy]);
  if (Math.abs(whole) < 1e-9) return [sv / n, 0, 0];
  return [
    determinant([sv, sx, sy, sxv, sxx, sxy, syv, sxy, syy]) / whole,
    determinant([n, sv, sy, sx, sxv, sxy, sy, syv, syy]) / whole,
    determinant([n, sx, sv, sx, sxx, sxv, sy, sxy, syv]) / whole,
  ];
}

const planeAt = ([middle, across, down]: Plane, at: number, width: number, height: number) =>
  middle + across * ((at % width) / width - 0.5) + down * (Math.floor(at / width) / height - 0.5);

function distance(lab: Float32Array, at: number, ground: Ground, width: number, height: number): number {
  let sum = 0;
  for (let index = 0; index < 3; index++)
    sum += (lab[3 * at + index]! - planeAt(ground[index]!, at, width, height)) ** 2;
  return Math.sqrt(sum);
}

/**
 * Takes out of the mask what is darker than the ground in its own colour, and soft: a thing has an edge.
 * @returns what is left in the mask and has the colour of a shadow: where a thing stands on its ground, its shadow has an edge too
 */
function withoutShadows(
  mask: Uint8Array,
  lab: Float32Array,
  ground: Ground,
  width: number,
  height: number,
  noise: number,
): Uint8Array {
  const soft = new Uint8Array(mask.length);
  for (let at = 0; at < mask.length; at++) {
    if (!mask[at]) continue;
    const darker = planeAt(ground[0], at, width, height) - lab[3 * at]!;
    const colour = Math.hypot(
      lab[3 * at + 1]! - planeAt(ground[1], at, width, height),
      lab[3 * at + 2]! - planeAt(ground[2], at, width, height),
    );
    // What is darker by so much loses as much of its colour.
    if (darker > 0 && darker < SHADOW_DEPTH && colour < 4 + darker / 5 + noise) soft[at] = 1;
  }
  // Soft: no neighbour two pixels away differs much.
  const steep = 4 + 1.5 * noise;
  for (let at = 0; at < mask.length; at++) {
    if (!soft[at]) continue;
    const [x, y] = [at % width, Math.floor(at / width)];
    const near = [
      x > 1 ? at - 2 : at,
      x < width - 2 ? at + 2 : at,
      y > 1 ? at - 2 * width : at,
      y < height - 2 ? at + 2 * width : at,
    ];
    const change = Math.max(...near.map((other) => Math.abs(lab[3 * other]! - lab[3 * at]!)));
    if (change < steep) mask[at] = 0;
  }
  return soft;
}

/** A thing of which no more than this is of the colour of a shadow is not itself as grey as one. */
const HARDLY_SHADED = 0.25;
/** Share of a row that must be shadow for it to be none of the thing. */
const ALL_SHADED = 0.85;

/** The box without those of its outer rows and columns that are nothing but the shadow that a thing throws where it stands. */
function withoutContact(box: Part, mask: Uint8Array, shaded: Uint8Array, width: number): void {
  let [inside, dark] = [0, 0];
  for (let y = box.top; y <= box.bottom; y++)
    for (let x = box.left; x <= box.right; x++) {
      if (!mask[y * width + x]) continue;
      inside++;
      dark += shaded[y * width + x]!;
    }
  if (dark > HARDLY_SHADED * inside) return;
  const allShaded = (line: number, across: boolean) => {
    let [there, shadow] = [0, 0];
    const [from, to] = across ? [box.left, box.right] : [box.top, box.bottom];
    for (let one = from; one <= to; one++) {
      const at = across ? line * width + one : one * width + line;
      if (!mask[at]) continue;
      there++;
      shadow += shaded[at]!;
    }
    return shadow >= ALL_SHADED * there;
  };
  // What goes on for longer is a part of the thing that is as grey as a shadow: a lid, a foot.
  const thin = (most: number, lineAt: (times: number) => number, across: boolean) => {
    let times = 0;
    while (times < most && allShaded(lineAt(times), across)) times++;
    return times < most ? times : 0;
  };
  const high = Math.ceil((box.bottom - box.top) / 20);
  const wide = Math.ceil((box.right - box.left) / 20);
  const { left, right, top, bottom } = box;
  box.bottom -= thin(high, (times) => bottom - times, true);
  box.top += thin(high, (times) => top + times, true);
  box.left += thin(wide, (times) => left + times, false);
  box.right -= thin(wide, (times) => right - times, false);
}

/** The box of the largest part and of those that are not much smaller. */
function boxed(
  mask: Uint8Array,
  distances: Float32Array | undefined,
  width: number,
  height: number,
  plain: number,
  shaded?: Uint8Array,
): Subject | NoSubject {
  const parts = partsOf(mask, width, height);
  const most = Math.max(0, ...parts.map(({ area }) => area));
  if (most < 0.002 * width * height) return 'nothing on it';
  const joined = parts.filter(({ area }) => area >= 0.04 * most);
  const box: Part = {
    area: 0,
    left: Math.min(...joined.map((one) => one.left)),
    top: Math.min(...joined.map((one) => one.top)),
    right: Math.max(...joined.map((one) => one.right)),
    bottom: Math.max(...joined.map((one) => one.bottom)),
  };
  if (shaded) withoutContact(box, mask, shaded, width);
  const { left, top } = box;
  const [right, bottom] = [box.right + 1, box.bottom + 1];
  // Reasons to doubt: it touches the edge, so there may be more of it; it is all there is; it is hardly apart from its ground.
  const touching = [left === 0, top === 0, right === width, bottom === height].filter(Boolean).length;
  const covers = ((right - left) * (bottom - top)) / (width * height);
  let sure = Math.min(1, (plain - PLAIN) / (0.92 - PLAIN) + 0.35);
  if (touching > 0) sure *= touching > 1 ? 0.3 : 0.45;
  if (covers > 0.96) sure *= 0.4;
  if (distances) {
    let [sum, count] = [0, 0];
    for (let at = 0; at < mask.length; at++)
      if (mask[at]) {
        sum += distances[at]!;
        count++;
      }
    sure *= Math.min(1, sum / Math.max(1, count) / 22);
  }
  const stray =
    parts.reduce((sum, { area }) => sum + area, 0) - joined.reduce((sum, { area }) => sum + area, 0);
  if (stray > 0.15 * most) sure *= 0.6;
  return {
    x: left / width,
    y: top / height,
    width: (right - left) / width,
    height: (bottom - top) / height,
    sure: Math.round(100 * Math.max(0, sure)) / 100,
  };
}

interface Part {
  area: number;
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** Connected parts of a mask (by their four neighbours); single specks are none. */
function partsOf(mask: Uint8Array, width: number, height: number): Part[] {
  const seen = new Uint8Array(mask.length);
  const parts: Part[] = [];
  const stack = new Int32Array(mask.length);
  for (let start = 0; start < mask.length; start++) {
    if (!mask[start] || seen[start]) continue;
    const part: Part = { area: 0, left: width, top: height, right: 0, bottom: 0 };
    let size = 0;
    stack[size++] = start;
    seen[start] = 1;
    while (size > 0) {
      const at = stack[--size]!;
      const [x, y] = [at % width, Math.floor(at / width)];
      part.area++;
      part.left = Math.min(part.left, x);
      part.right = Math.max(part.right, x);
      part.top = Math.min(part.top, y);
      part.bottom = Math.max(part.bottom, y);
      for (const next of [x > 0 ? at - 1 : -1, x < width - 1 ? at + 1 : -1, at - width, at + width])
        if (next >= 0 && next < mask.length && mask[next] && !seen[next]) {
          seen[next] = 1;
          stack[size++] = next;
        }
    }
    if (part.area >= 9) parts.push(part);
  }
  return parts;
}

/**
 * The frame that gives a set of things one framing: so much margin around each, in one shape.
 * @param margin parts of the longer side of the frame that are left free on either side of the thing, 0 to 0.45
 * @param place 'centred', or standing on a line: the free room below is the margin, the rest of it above
 * @param image in pixels, oriented
 */
export function framing(
  subject: Pick<Subject, 'x' | 'y' | 'width' | 'height'>,
  { ratio, margin, place }: { ratio: readonly [number, number]; margin: number; place: 'centred' | 'base' },
  image: { width: number; height: number },
): Frame {
  const thing = {
    x: subject.x * image.width,
    y: subject.y * image.height,
    width: subject.width * image.width,
    height: subject.height * image.height,
  };
  const shape = ratio[0] / ratio[1];
  const free = 1 - 2 * margin;
  // The margin is of the shorter room that is left: the thing fits with it both ways.
  const width = Math.max(thing.width / free, (thing.height / free) * shape);
  const height = width / shape;
  const y =
    place === 'centred'
      ? thing.y + thing.height / 2 - height / 2
      : thing.y + thing.height + margin * height - height;
  return {
    x: (thing.x + thing.width / 2 - width / 2) / image.width,
    y: y / image.height,
    width: width / image.width,
    height: height / image.height,
    ratio: [ratio[0], ratio[1]],
  };
}
