/** The colours that can be asked for. */
export const COLOUR_NAMES = [
  'black',
  'grey',
  'white',
  'red',
  'orange',
  'brown',
  'yellow',
  'green',
  'turquoise',
  'blue',
  'violet',
  'pink',
] as const;
export type ColourName = (typeof COLOUR_NAMES)[number];

/** The name of a colour as people sort them. @param hex '#rrggbb' */
export function colourName(hex: string): ColourName {
  const [r, g, b] = [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16) / 255) as [
    number,
    number,
    number,
  ];
  const most = Math.max(r, g, b);
  const least = Math.min(r, g, b);
  const spread = most - least;
  const light = (most + least) / 2;
  if (light < 0.1) return 'black';
  if (spread < 0.09) return light < 0.16 ? 'black' : light > 0.88 ? 'white' : 'grey';
  const turn =
    most === r ? ((g - b) / spread + 6) % 6 : most === g ? (b - r) / spread + 2 : (r - g) / spread + 4;
  const hue = turn * 60;
  if (hue >= 15 && hue < 45) return light < 0.45 ? 'brown' : 'orange';
  if (hue < 15 || hue >= 345) return light > 0.7 ? 'pink' : light < 0.22 ? 'brown' : 'red';
  if (hue < 70) return light < 0.3 ? 'brown' : 'yellow';
  if (hue < 160) return 'green';
  if (hue < 195) return 'turquoise';
  if (hue < 255) return 'blue';
  if (hue < 295) return 'violet';
  return light < 0.4 ? 'violet' : 'pink';
}
