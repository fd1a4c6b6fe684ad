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
      edit?: Edit;
    }
  | {
      make: 'product';
      product: 'print' | 'wheel' | 'pin';
      scene: Scene;
      size: number;
      format: 'jpg' | 'png' | 'webp';
    }
  | { make: 'drawing'; drawing: string }
  | { make: 'icon' }
  | { make: 'sound'; seconds: number; format: 'mp3' | 'ogg' | 'wav' }
  | { make: 'film'; seconds: number; from: Scene }
  | { make: 'pdf'; title: string; pages: number }
  | { make: 'office'; kind: 'docx' | 'xlsx'; title: string }
  | { make: 'table'; rows: string[][] }
  | { make: 'calendar' }
  | { make: 'copy'; of: string };

/** What someone did to a picture before bringing it in again. */
export type Edit = 'crop' | 'brighter';

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
}
