/** How an image is to be written: same image, upright, with its metadata and colour profile, never enlarged. */
export interface Rendering {
  /** The box that it fits into, in pixels. */
  width: number;
  height: number;
  /** One of those that are written here. */
  mime: string;
  /** The media type of the file, where it is another one. */
  sentAs?: string;
  /** 1 to 100, as encoders count. */
  quality?: number;
}

/** As high as any image is. */
export const ANY_HEIGHT = 100_000;
