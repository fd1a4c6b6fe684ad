import type { PageDetail, ShownView } from '../../../api/pages.ts';

/** What the page that is looked at says of one element with placements, in CSS pixels at the width of its frame. */
export interface Measured {
  starts: number[];
  number: number;
  width: number;
  height: number;
  naturalWidth: number;
  naturalHeight: number;
  cropped: boolean;
  background: boolean;
}

export type SpotChoice =
  { at: number } | { insteadOf: number } | { background: number; in: string } | { behind: number };

/** Messages from the page that is looked at; it runs on an origin of no one, so nothing in them is trusted but numbers. */
export interface LookMessage {
  ready?: true;
  /** With it: how much of the page lies on other hosts. */
  others?: number;
  /** A key that was pressed in it: the section's keys hold there too. */
  key?: string;
  chose?: number;
  spot?: { at: number } | { insteadOf: number } | { background: number } | { behind: number; width: number };
  measured?: Measured[];
  /** With what is measured: the width of the frame, and whether everything of the page has been loaded. */
  window?: number;
  complete?: boolean;
}

/**
 * How wide an image would have to be to be drawn as large as it is, in CSS pixels; one that is cropped or stretched is larger than its box.
 * 0: it is no image, or not there.
 */
export function shownWidth({ width, height, naturalWidth, naturalHeight }: Measured): number {
  if (naturalWidth === 0 || naturalHeight === 0) return 0;
  return Math.ceil(Math.max(width, (height * naturalWidth) / naturalHeight));
}

/** Widths that the page is looked at in, in CSS pixels. */
export const DEVICES = [
  { name: 'phone', width: 390 },
  { name: 'tablet', width: 820 },
  { name: 'wide', width: 1280 },
] as const;

/**
 * What a page shows, in the order of the drawn page. What its style sheets may show is there only where it is drawn; what
 * is not drawn stands behind what it is written behind.
 */
export function inOrder({ path, shown }: PageDetail, measured: readonly Measured[]): ShownView[] {
  const numberOf = (one: ShownView) => measured.find((box) => box.starts.includes(one.at))?.number;
  let before = 0;
  return shown
    .flatMap((one) => {
      const number = numberOf(one);
      if (number === undefined && one.page !== path) return [];
      if (one.page === path) before = number ?? before;
      return [{ one, number: number ?? before }];
    })
    .sort((a, b) => a.number - b.number)
    .map(({ one }) => one);
}
