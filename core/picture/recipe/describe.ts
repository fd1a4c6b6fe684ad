import { normalise, reachesBeyond, type Frame, type Recipe, type Size, type Tone } from './recipe.ts';

/** What a recipe does, in one sentence that names every step; for lists, the ledger, and people. */
export function describe(recipe: Recipe): string {
  const parts = stepTexts(recipe).map(({ text }) => text);
  if (parts.length === 0) return 'Nothing is changed.';
  const all = parts.join(', ');
  return `${all[0]!.toUpperCase()}${all.slice(1)}.`;
}

/** Each step that a recipe has, with what it does in a few words. */
export function stepTexts(recipe: Recipe): { step: keyof Recipe; text: string }[] {
  const { orient, frame, tone, covers, size, file } = normalise(recipe);
  const out: { step: keyof Recipe; text: string }[] = [];
  if (orient) {
    const { turns = 0, mirror, flip, straighten } = orient;
    const turned = ['', 'turned right', 'turned upside down', 'turned left'][turns]!;
    const ways = [
      turned,
      mirror ? 'mirrored left to right' : '',
      flip ? 'mirrored top to bottom' : '',
      straighten ? `straightened by ${Math.abs(straighten)}° ${straighten > 0 ? 'right' : 'left'}` : '',
    ].filter(Boolean);
    out.push({ step: 'orient', text: ways.join(', ') });
  }
  if (frame) out.push({ step: 'frame', text: frameText(frame) });
  if (tone) out.push({ step: 'tone', text: toneText(tone) });
  if (covers)
    out.push({
      step: 'covers',
      text: covers.length === 1 ? '1 part covered' : `${covers.length} parts covered`,
    });
  if (size) out.push({ step: 'size', text: sizeText(size) });
  if (file) {
    const { format, quality, ground } = file;
    const how =
      quality === undefined
        ? ''
        : quality === 'same'
          ? 'as small as looks the same'
          : typeof quality === 'number'
            ? `at quality ${quality}`
            : `below ${Math.round(quality.mostBytes / 1000).toLocaleString('en')} kB`;
    const ways = [
      format || how
        ? `saved ${[format ? `as ${FORMAT_NAMES[format]}` : '', how].filter(Boolean).join(', ')}`
        : '',
      ground ? `on ${ground} where it was transparent` : '',
    ].filter(Boolean);
    out.push({ step: 'file', text: ways.join(', ') });
  }
  return out;
}

export const FORMAT_NAMES = { jpeg: 'JPEG', png: 'PNG', webp: 'WebP', avif: 'AVIF' } as const;

const BEYOND_TEXTS = {
  colour: 'a colour',
  edge: 'its edge’s colour',
  blur: 'a blurred copy',
  none: 'nothing',
} as const;

function frameText(frame: Frame): string {
  const shape = frame.ratio ? ` to ${frame.ratio[0]}:${frame.ratio[1]}` : '';
  if (!reachesBeyond(frame) && !frame.beyond) return `cropped${shape}`;
  const fill = frame.beyond ?? { fill: 'colour', colour: '#ffffff' };
  return `framed${shape} with ${fill.fill === 'colour' ? fill.colour : BEYOND_TEXTS[fill.fill]} beyond the image`;
}

function toneText(tone: Tone): string {
  const signed = (name: string, value: number | undefined) =>
    value ? `${name} ${value > 0 ? '+' : '−'}${Math.abs(value)}` : '';
  const { levels, veil } = tone;
  return [
    levels === 'auto'
      ? 'automatic levels'
      : levels
        ? `levels ${levels.black}, ${levels.mid}, ${levels.white}`
        : '',
    signed('brightness', tone.brightness),
    signed('contrast', tone.contrast),
    signed('saturation', tone.saturation),
    signed('warmth', tone.warmth),
    tone.blackAndWhite ? 'black and white' : '',
    veil ? `a veil of ${veil.colour} at ${Math.round(100 * veil.opacity)} %` : '',
  ]
    .filter(Boolean)
    .join(', ');
}

function sizeText(size: Size): string {
  const to = {
    fit: () => size.by === 'fit' && `resized to fit ${size.width} × ${size.height} px`,
    cover: () => size.by === 'cover' && `resized to fill ${size.width} × ${size.height} px`,
    width: () => size.by === 'width' && `resized to ${size.width} px wide`,
    height: () => size.by === 'height' && `resized to ${size.height} px high`,
    longest: () => size.by === 'longest' && `resized to ${size.pixels} px on its longest side`,
    percent: () => size.by === 'percent' && `resized to ${size.percent} %`,
  }[size.by]();
  return [
    to,
    size.enlarge ? 'enlarged where it is smaller' : '',
    size.sharpen ? `${size.sharpen === 'light' ? 'lightly' : 'strongly'} sharpened` : '',
  ]
    .filter(Boolean)
    .join(', ');
}
