import { Chance } from './chance.ts';

/** A thing for sale, photographed by hand: nowhere in the middle, never as large as the last one, on whatever lay there. */
export interface Shot {
  thing: Thing;
  colour: string;
  ground: Ground;
  width: number;
  height: number;
  /** Where the thing stands, in parts of the image: what a search for it must find. */
  box: { x: number; y: number; width: number; height: number };
}
export type Thing = 'mug' | 'tin' | 'bottle' | 'notebook' | 'lamp' | 'bag';
/** 'cloth' has stripes: it is no plain ground. */
export type Ground = 'white' | 'cream' | 'grey' | 'slate' | 'gradient' | 'cloth';

const SIZES = [
  [1600, 1200],
  [1200, 1600],
  [2000, 1500],
  [1500, 1500],
  [2400, 1600],
  [1800, 1350],
] as const;
/** Width to height of each thing. */
const SHAPES: Record<Thing, number> = {
  mug: 1.25,
  tin: 0.8,
  bottle: 0.36,
  notebook: 0.74,
  lamp: 0.6,
  bag: 0.85,
};
const GROUNDS: readonly Ground[] = ['white', 'cream', 'grey', 'gradient', 'slate', 'white'];
const COLOURS = ['#7a2f26', '#2f4f6f', '#3e6b4a', '#6a4a7c', '#8a6a1f', '#3b3b42'];

/** Where a thing stands in a shot, and what it stands on. */
export function shotOf(
  seed: string,
  number: number,
  thing: Thing,
  ground = GROUNDS[number % GROUNDS.length]!,
): Shot {
  const chance = new Chance(`${seed} shot ${number}`);
  const [width, height] = SIZES[number % SIZES.length]!;
  // As large as a third to a half of the shorter side, and wholly in sight.
  const tall = Math.min(width, height) * chance.between(0.38, 0.58);
  const size = { width: tall * SHAPES[thing], height: tall };
  const room = { x: width - size.width, y: height - size.height };
  const left = Math.round(room.x * chance.between(0.12, 0.88));
  const top = Math.round(room.y * chance.between(0.12, 0.88));
  return {
    thing,
    // A dark thing on slate would be seen by nobody.
    colour: ground === 'slate' ? '#d8c9a4' : COLOURS[number % COLOURS.length]!,
    ground,
    width,
    height,
    box: { x: left / width, y: top / height, width: size.width / width, height: size.height / height },
  };
}

const FLAT: Record<Exclude<Ground, 'gradient' | 'cloth'>, string> = {
  white: '#f7f6f2',
  cream: '#eae0cb',
  grey: '#c9c8c5',
  slate: '#33373d',
};

/** The shot as a drawing: the thing touches each side of its box. */
export function shotDrawing({ thing, colour, ground, width, height, box }: Shot): string {
  const [x, y, w, h] = [box.x * width, box.y * height, box.width * width, box.height * height];
  const shadow = `<ellipse cx="${x + w / 2}" cy="${y + h}" rx="${w * 0.5}" ry="${h * 0.035}" fill="#000" opacity=".22" filter="url(#soft)"/>`;
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}"><defs>
<linearGradient id="fall" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#f4f2ec"/><stop offset="1" stop-color="#dcd8cf"/></linearGradient>
<pattern id="cloth" width="90" height="90" patternUnits="userSpaceOnUse" patternTransform="rotate(32)"><rect width="90" height="90" fill="#c7b48c"/><rect width="42" height="90" fill="#5c7385"/><rect y="30" width="90" height="14" fill="#a04a3c"/></pattern>
<linearGradient id="lit" x1="0" x2="1"><stop offset="0" stop-color="#fff" stop-opacity=".28"/><stop offset=".45" stop-color="#fff" stop-opacity="0"/><stop offset="1" stop-color="#000" stop-opacity=".25"/></linearGradient>
<filter id="soft" x="-1" y="-3" width="3" height="7"><feGaussianBlur stdDeviation="${h / 45}"/></filter></defs>
<rect width="100%" height="100%" fill="${ground === 'gradient' ? 'url(#fall)' : ground === 'cloth' ? 'url(#cloth)' : FLAT[ground]}"/>
${shadow}<svg x="${x}" y="${y}" width="${w}" height="${h}" viewBox="0 0 100 100" preserveAspectRatio="none">${THINGS[thing](colour)}</svg></svg>`;
}

/** A shape in its colour, and the light on it. */
const lit = (shape: string, colour: string) =>
  `${shape.replace('/>', ` fill="${colour}"/>`)}${shape.replace('/>', ' fill="url(#lit)"/>')}`;

/** Each in a square of 100 by 100, which is drawn out to the shape of the thing. */
const THINGS: Record<Thing, (colour: string) => string> = {
  mug: (colour) =>
    `<path d="M70 22h12a18 28 0 0 1 0 56h-12v-13h10a8 15 0 0 0 0-30h-10z" fill="${colour}"/>${lit('<path d="M0 0h76v90q0 10-8 10h-60q-8 0-8-10z"/>', colour)}<circle cx="38" cy="52" r="18" fill="#f0e6c8"/><circle cx="45" cy="47" r="15" fill="${colour}"/>`,
  tin: (colour) =>
    `${lit('<path d="M0 14h100v86h-100z"/>', colour)}<path d="M3 0h94v14h-94z" fill="#b9b2a2"/><path d="M0 38h100v34h-100z" fill="#efe6d0"/><path d="M50 42l4 9 10 1-8 6 3 10-9-6-9 6 3-10-8-6 10-1z" fill="${colour}"/>`,
  bottle: (colour) =>
    `${lit('<path d="M36 0h28v26q36 8 36 26v48h-100v-48q0-18 36-26z"/>', colour)}<path d="M0 60h100v22h-100z" fill="#efe6d0"/>`,
  notebook: (colour) =>
    `${lit('<path d="M0 0h100v100h-100z"/>', colour)}<path d="M0 0h10v100h-10z" fill="#000" opacity=".3"/><path d="M26 22h58v18h-58z" fill="#efe6d0"/>`,
  lamp: (colour) =>
    `${lit('<path d="M22 0h56l22 46h-100z"/>', colour)}<path d="M46 46h8v44h-8z" fill="#55514a"/><path d="M20 90h60v10h-60z" fill="#55514a"/>`,
  bag: (colour) =>
    `<path d="M28 30q0-30 22-30t22 30h-8q0-22-14-22t-14 22z" fill="${colour}"/>${lit('<path d="M0 28h100l-4 72h-92z"/>', colour)}<circle cx="50" cy="64" r="17" fill="#efe6d0"/>`,
};
