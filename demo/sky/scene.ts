/** What an image shows. The same motif with the same seed is the same image. */
export const MOTIFS = [
  'galaxy',
  'nebula',
  'moon',
  'jupiter',
  'saturn',
  'mars',
  'trails',
  'dome',
  'milkyway',
  'cluster',
  'comet',
  'sun',
] as const;
export type Motif = (typeof MOTIFS)[number];

/** Weather of the dome's images. */
export type Weather = 'dusk' | 'night' | 'snow' | 'fog' | 'aurora' | 'morning' | 'storm';

export interface Scene {
  motif: Motif;
  seed: string;
  weather?: Weather;
  /** Moon: 0 new, 0.5 full, 1 new again. */
  phase?: number;
}
