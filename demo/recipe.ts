import type { Shot } from './shots.ts';
import type { Scene } from './sky/scene.ts';

/** How the file of an item is made. */
export type Recipe =
  | {
      make: 'picture';
      scene: Scene;
      width: number;
      height: number;
      format: 'jpg' | 'png' | 'webp';
      quality?: number;
      exif?: Record<string, string>;
      /** Tells where it was taken: at the dome. */
      place?: boolean;
      edit?: Edit;
      /** Grey levels by which its pixels stray, as a sensor's do. */
      grain?: number;
    }
  | {
      make: 'product';
      product: 'print' | 'wheel' | 'pin';
      scene: Scene;
      size: number;
      format: 'jpg' | 'png' | 'webp';
    }
  /** A thing for sale as it was photographed. */
  | { make: 'shot'; shot: Shot; seed: string }
  /** As SVG, or in so many pixels as JPEG. */
  | { make: 'drawing'; drawing: string; jpegWidth?: number }
  | { make: 'icon' }
  | { make: 'sound'; seconds: number; format: 'mp3' | 'ogg' | 'wav' }
  /** As for a page, or as it came from the camera. */
  | { make: 'film'; seconds: number; from: Scene; uncut?: boolean }
  /** Set, or scanned. */
  | { make: 'pdf'; title: string; pages: number; scan?: Scene }
  | { make: 'office'; kind: 'docx' | 'xlsx'; title: string }
  | { make: 'table'; rows: string[][] }
  | { make: 'calendar' }
  | { make: 'copy'; of: string };

/** What someone did to an image before bringing it in again. */
export type Edit = 'crop' | 'brighter' | 'torn';

export interface Made {
  path: string;
  recipe: Recipe;
  /** Words for its record and its alt text on pages; absent where the demo leaves them out on purpose. */
  alt?: string;
  title?: string;
  caption?: string;
  tags?: string[];
  creator?: string;
  licence?: string;
  licenceEnd?: string;
  /** The licence ends so many days after the demo was made. */
  licenceDays?: number;
}
