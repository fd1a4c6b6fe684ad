/**
 * The small style sheet that a site gets when its own classes do not do: where a placement stands, and the room around it. Every rule holds
 * for these classes alone.
 */
export const PLACED_SHEET = 'placements.css';

export const ALIGNMENTS = {
  none: 'page default',
  left: 'left, text wraps',
  right: 'right, text wraps',
  center: 'centred',
  full: 'full width',
} as const;
export type Alignment = keyof typeof ALIGNMENTS;

export const SPACINGS = { none: 'page default', small: 'small', large: 'large' } as const;
export type Spacing = keyof typeof SPACINGS;

export const PLACED_CSS = `/* Where images stand, for classes that begin with "placed-". Made once; change it as you like. */
.placed-left { float: left; max-width: 50%; margin: 0 1.5em 1em 0; }
.placed-right { float: right; max-width: 50%; margin: 0 0 1em 1.5em; }
.placed-center { display: block; width: fit-content; margin-inline: auto; }
.placed-full { display: block; width: 100%; height: auto; }
.placed-full > img, .placed-full > a > img, .placed-full > video { width: 100%; height: auto; }
.placed-space-small { margin-block: 0.75em; }
.placed-space-large { margin-block: 2.5em; }
@media (max-width: 30em) {
  .placed-left, .placed-right { float: none; max-width: 100%; margin-inline: 0; }
}
`;

/** The classes of these choices. */
export function placedClasses(align: Alignment, space: Spacing): string[] {
  return [
    ...(align === 'none' ? [] : [`placed-${align}`]),
    ...(space === 'none' ? [] : [`placed-space-${space}`]),
  ];
}

export const isPlacedClass = (name: string): boolean =>
  /^placed-(?:left|right|center|full|space-\w+)$/.test(name);

/** The choices that some classes stand for. */
export function placedChoices(classes: readonly string[]): { align: Alignment; space: Spacing } {
  const align = (Object.keys(ALIGNMENTS) as Alignment[]).find((one) => classes.includes(`placed-${one}`));
  const space = (Object.keys(SPACINGS) as Spacing[]).find((one) => classes.includes(`placed-space-${one}`));
  return { align: align ?? 'none', space: space ?? 'none' };
}
