import { labOf } from '../picture/lab.ts';
import { FEATURE_SIDE, featuresOf, type Features } from './features.ts';

/** A label that follows from the pixels alone. */
export interface Computed {
  label: string;
  /** 0 to 1. */
  confidence: number;
  /** In a few words. */
  reason: string;
}

/** Side of the square in which lines, flat areas and colours are looked for, in pixels. */
export const DETAIL_SIDE = 256;

/** Below this distance from grey a colour is hardly one. */
const GREY = 7;
const PALE = 14;
/** Lightness, 0 to 100: of what is dark, of what is white. */
const DARK = 19;
const WHITE = 80;
/** A change of lightness that is an edge. */
const EDGE = 8;
/** Below this difference two colours are the same; below that one a pixel is of the ground (both in CIE 1976 units). */
const SAME = 1;
const GROUND = 9;
/** A part of the side along which an edge is a line. */
const LINE = 0.3;

/** Lines of writing on an image that is nothing but writing. */
const FULL_PAGE = 12;

/**
 * What can be computed of an image: its features, and what can be said of it outright, of light, of snow, of what was drawn and not
 * photographed.
 * @param rgb DETAIL_SIDE x DETAIL_SIDE pixels, 3 bytes each, however the image is shaped
 * @param aspect its width by its height
 */
export function lookOf(rgb: Uint8Array, aspect: number): { features: Features; computed: Computed[] } {
  const seen = measured(rgb);
  return {
    features: featuresOf(featureSquare(rgb), aspect, Math.min(1, seen.lines / FULL_PAGE)),
    computed: computedLabels(seen, aspect),
  };
}

/** At most one for each label, in no order. */
function computedLabels(seen: Measured, aspect: number): Computed[] {
  const made = drawnLabel(seen);
  return [
    ...(made ? [made] : []),
    ...(aspect > 0 && aspect <= 0.85
      ? [{ label: 'portrait shape', confidence: 1, reason: 'It is taller than wide.' }]
      : []),
    one('black and white', sure(seen.grey, 0.96, 0.995), 'Nearly nothing in it has a colour.'),
    // A page, a chart or a screen has no weather and no hour.
    ...(made && made.label !== 'drawing'
      ? []
      : [
          one('night', sure(seen.dark, 0.55, 0.9), `${percent(seen.dark)} of it is dark.`),
          one(
            'sunset',
            Math.min(
              sure(seen.warmBand, 0.55, 0.85),
              sure(seen.warmAbove, 0.5, 0.2),
              sure(seen.white, 0.5, 0.3),
              // The Sun itself, on black, is none.
              sure(seen.dark, 0.62, 0.5),
            ),
            'Orange and red across it, under a sky that is not.',
          ),
          one(
            'snow',
            Math.min(
              sure(seen.lightBelow, 82, 90),
              sure(seen.lightBelow - seen.lightAbove, 2, 6),
              sure(seen.greyBelow, 0.7, 0.9),
              // A thing on a white ground stands in none.
              seen.onWhite ? 0 : 1,
            ),
            'It is white below, and less so above.',
          ),
        ]),
  ].filter(({ confidence }) => confidence > 0);
}

const one = (label: string, confidence: number, reason: string): Computed => ({ label, confidence, reason });
const percent = (part: number) => `${Math.round(100 * part)} %`;
/** From 0 at `from` to 1 at `to`, which may lie below it. */
const sure = (value: number, from: number, to: number) =>
  Math.min(1, Math.max(0, (value - from) / (to - from)));

interface Measured {
  /** Shares of all pixels: without colour, dark, white. */
  grey: number;
  dark: number;
  white: number;
  /** Mean lightness of the upper and of the lower third, and the share of the lower one that has hardly a colour. */
  lightAbove: number;
  lightBelow: number;
  greyBelow: number;
  /** Orange and red: share in the narrow band that has most of it, and at the top. */
  warmBand: number;
  warmAbove: number;
  /** Share of neighbours that are the same; of those that are not of its plain ground. */
  flat: number;
  flatWithin: number;
  /** Colours that nine tenths of what is not its ground need. */
  colours: number;
  /** Share of what is not its ground. */
  within: number;
  /** Its corners are white. */
  onWhite: boolean;
  /** Rows in which an edge runs far, and columns. */
  across: number;
  down: number;
  /** Times that rows with fine marks follow on empty ones, from top to bottom. */
  lines: number;
}

function measured(rgb: Uint8Array): Measured {
  const side = DETAIL_SIDE;
  const pixels = side * side;
  const lab = labOf(rgb, 3);
  const light = (x: number, y: number) => lab[3 * (y * side + x)]!;
  const ground = groundColour(lab);
  let [grey, dark, white, same, within, sameWithin] = [0, 0, 0, 0, 0, 0];
  const [lightRows, paleRows] = [new Float64Array(side), new Float64Array(side)];
  const warmRows = new Float64Array(side);
  const counts = new Map<number, number>();
  for (let at = 0; at < pixels; at++) {
    const [l, a, b] = [lab[3 * at]!, lab[3 * at + 1]!, lab[3 * at + 2]!];
    const chroma = Math.hypot(a, b);
    const y = Math.floor(at / side);
    if (chroma < GREY) grey++;
    if (l < DARK) dark++;
    if (l > WHITE && chroma < PALE) white++;
    lightRows[y]! += l / side;
    if (chroma < PALE) paleRows[y]! += 1 / side;
    const hue = Math.atan2(b, a);
    if (chroma > 16 && l > 22 && hue > -0.35 && hue < 1.35) warmRows[y]! += 1 / side;
    const apart =
      at % side === 0
        ? 0
        : Math.abs(l - lab[3 * at - 3]!) + Math.abs(a - lab[3 * at - 2]!) + Math.abs(b - lab[3 * at - 1]!);
    if (apart < SAME) same++;
    if (Math.hypot(l - ground[0], a - ground[1], b - ground[2]) < GROUND) continue;
    within++;
    if (apart < SAME) sameWithin++;
    const colour = ((rgb[3 * at]! >> 4) << 8) | ((rgb[3 * at + 1]! >> 4) << 4) | (rgb[3 * at + 2]! >> 4);
    counts.set(colour, (counts.get(colour) ?? 0) + 1);
  }
  const mean = (rows: Float64Array, from: number, to: number) => {
    const some = rows.subarray(Math.floor(from * side), Math.floor(to * side));
    return some.reduce((sum, row) => sum + row, 0) / some.length;
  };
  const border = [light(1, 1), light(side - 2, 1), light(1, side - 2), light(side - 2, side - 2)];
  return {
    grey: grey / pixels,
    dark: dark / pixels,
    white: white / pixels,
    lightAbove: mean(lightRows, 0, 1 / 3),
    lightBelow: mean(lightRows, 2 / 3, 1),
    greyBelow: mean(paleRows, 2 / 3, 1),
    warmBand: Math.max(...Array.from({ length: 17 }, (_, at) => mean(warmRows, at * 0.05, at * 0.05 + 0.1))),
    warmAbove: mean(warmRows, 0, 0.12),
    flat: same / pixels,
    flatWithin: within === 0 ? 1 : sameWithin / within,
    colours: coloursFor(0.9, [...counts.values()], within),
    within: within / pixels,
    onWhite: border.filter((one) => one > 88).length >= 3,
    across: linesOf((along, at) => Math.abs(light(along, at + 1) - light(along, at))),
    down: linesOf((along, at) => Math.abs(light(at + 1, along) - light(at, along))),
    lines: textLines(light),
  };
}

/** The colour of its border, channel by channel in the middle of all. */
function groundColour(lab: Float32Array): [number, number, number] {
  const side = DETAIL_SIDE;
  const border = Array.from({ length: side }, (_, at) => [
    at,
    (side - 1) * side + at,
    at * side,
    at * side + side - 1,
  ]).flat();
  const middle = (channel: number) => {
    const sorted = border.map((pixel) => lab[3 * pixel + channel]!).sort((one, other) => one - other);
    return sorted[sorted.length >> 1]!;
  };
  return [middle(0), middle(1), middle(2)];
}

function coloursFor(share: number, counts: number[], pixels: number): number {
  counts.sort((one, other) => other - one);
  let [covered, colours] = [0, 0];
  while (covered < share * pixels && colours < counts.length) covered += counts[colours++]!;
  return colours;
}

/** Rows (or columns) in which an edge runs without a break along a good part of the side. */
function linesOf(step: (along: number, at: number) => number): number {
  let lines = 0;
  for (let at = 0; at < DETAIL_SIDE - 1; at++) {
    let [run, longest] = [0, 0];
    for (let along = 0; along < DETAIL_SIDE; along++) {
      run = step(along, at) > EDGE ? run + 1 : 0;
      if (run > longest) longest = run;
    }
    if (longest >= LINE * DETAIL_SIDE) lines++;
  }
  return lines;
}

/** Lines of writing: rows in which light and dark change often, between rows in which nothing does. */
function textLines(light: (x: number, y: number) => number): number {
  let lines = 0;
  let within = false;
  for (let y = 0; y < DETAIL_SIDE; y++) {
    let changes = 0;
    for (let x = 1; x < DETAIL_SIDE; x++) if (Math.abs(light(x, y) - light(x - 1, y)) > 2 * EDGE) changes++;
    if (!within && changes >= 14) [within, lines] = [true, lines + 1];
    else if (changes <= 7) within = false;
  }
  return lines;
}

/** What was not photographed: a page of text, a chart, a screen, a drawing. */
function drawnLabel(seen: Measured): Computed | undefined {
  const { flat, flatWithin, colours, within, onWhite, across, down, lines, grey } = seen;
  const [straight, still] = [across + down, sure(flat, 0.45, 0.6)];
  if (lines >= 5 && straight >= 10 && Math.min(across, down) >= 2 && still > 0)
    return one(
      'screenshot',
      Math.min(still, sure(straight, 6, 12)),
      'Writing, and flat areas with straight edges across and down.',
    );
  if (!onWhite || flat < 0.6) return drawing(seen);
  if (within < 0.15 && Math.min(across, down) >= 2 && lines >= 2 && lines <= 8)
    return one('chart', Math.min(still, sure(straight, 2, 4)), 'Straight lines both ways, on white.');
  if (lines >= 6 && grey > 0.8)
    return one('document', Math.min(still, sure(lines, 4, 9)), `${lines} lines of writing on white.`);
  if (flat > 0.88 && within < 0.12 && colours < 60)
    return one('drawing', sure(flat, 0.85, 0.92), 'Thin lines on a plain ground.');
  return drawing({ flatWithin, colours, within });
}

/** A few colours, each over areas that do not vary. */
function drawing({
  flatWithin,
  colours,
  within,
}: Pick<Measured, 'flatWithin' | 'colours' | 'within'>): Computed | undefined {
  const drawn = Math.min(sure(flatWithin, 0.6, 0.8), sure(colours, 24, 10), sure(within, 0.02, 0.05));
  return drawn > 0
    ? one('drawing', drawn, `Flat areas of ${colours === 1 ? 'one colour' : `${colours} colours`}.`)
    : undefined;
}

/** Brings a larger square to the one of the features, by means. @param rgb DETAIL_SIDE x DETAIL_SIDE pixels, 3 bytes each */
export function featureSquare(rgb: Uint8Array): Uint8Array {
  const by = DETAIL_SIDE / FEATURE_SIDE;
  const small = new Uint8Array(3 * FEATURE_SIDE * FEATURE_SIDE);
  for (let y = 0; y < FEATURE_SIDE; y++)
    for (let x = 0; x < FEATURE_SIDE; x++)
      for (let channel = 0; channel < 3; channel++) {
        let sum = 0;
        for (let down = 0; down < by; down++)
          for (let along = 0; along < by; along++)
            sum += rgb[3 * ((y * by + down) * DETAIL_SIDE + x * by + along) + channel]!;
        small[3 * (y * FEATURE_SIDE + x) + channel] = Math.round(sum / (by * by));
      }
  return small;
}
