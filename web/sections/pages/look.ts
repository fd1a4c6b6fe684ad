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

export type SpotChoice = { at: number } | { insteadOf: number } | { background: number };

/** Messages from the page that is looked at; it runs on an origin of no one, so nothing in them is trusted but numbers. */
export interface LookMessage {
  ready?: true;
  /** A key that was pressed in it: the section's keys hold there too. */
  key?: string;
  chose?: number;
  spot?: SpotChoice;
  measured?: Measured[];
}

/** Widths that the page is looked at in, in CSS pixels. */
export const DEVICES = [
  { name: 'phone', width: 390 },
  { name: 'tablet', width: 820 },
  { name: 'wide', width: 1280 },
] as const;
