import type { SitePath } from '../address/path.ts';

/** What a folder's pictures are for: what they must have, and what is more than useful. Null: no such rule. */
export interface FolderRule {
  folder: SitePath;
  /** In the person's words: 'wide pictures at the head of a page'. */
  purpose: string;
  /** Pixels that a picture needs at least. */
  leastWidth: number | null;
  leastHeight: number | null;
  /** Pixels of the longer side beyond which a picture is made smaller. */
  largestSide: number | null;
  /** Width to height, '3:2'. */
  shape: string | null;
  /** Bytes beyond which a picture is made lighter. */
  largestBytes: number | null;
  /** Keep the picture as it was sent beside a smaller copy. */
  keepOriginal: boolean;
}

/** What holds where no folder says otherwise: nothing is needed, and 4096 pixels are enough for any page. */
export const SITE_RULE: FolderRule = {
  folder: '',
  purpose: '',
  leastWidth: null,
  leastHeight: null,
  largestSide: 4096,
  shape: null,
  largestBytes: null,
  keepOriginal: true,
};

/** The rule that holds in a folder: its own, else that of the nearest folder above. */
export function ruleFor(folder: SitePath, rules: readonly FolderRule[]): FolderRule {
  let best: FolderRule | undefined;
  for (const rule of rules) {
    const covers = rule.folder === '' || folder === rule.folder || folder.startsWith(`${rule.folder}/`);
    if (covers && (!best || rule.folder.length >= best.folder.length)) best = rule;
  }
  return best ?? SITE_RULE;
}

/** '3:2' -> 1.5. Undefined when it is not of the form number:number. */
export function shapeOf(text: string): number | undefined {
  const parts = /^\s*(\d+(?:\.\d+)?)\s*[:/x×]\s*(\d+(?:\.\d+)?)\s*$/.exec(text);
  if (!parts) return undefined;
  const [width, height] = [Number(parts[1]), Number(parts[2])];
  return width > 0 && height > 0 ? width / height : undefined;
}

/** How far a picture's shape may be from its rule's: 2 in 100. */
const SHAPE_TOLERANCE = 0.02;

export function hasShape(width: number, height: number, shape: string): boolean {
  const wanted = shapeOf(shape);
  return wanted === undefined || Math.abs(width / height / wanted - 1) <= SHAPE_TOLERANCE;
}

/** Formats that can be made smaller at the door without changing what they are. */
const SHRINKABLE = new Set(['image/jpeg', 'image/png', 'image/webp', 'image/avif', 'image/tiff']);

/**
 * The size a picture is brought to by its folder's rule: never larger than it is. Undefined: it stays as it is.
 * @param picture pixels after orientation, bytes, media type; `frames` over 1: an animation, which stays
 */
export function shrunkSize(
  picture: { width: number; height: number; bytes: number; mime: string; frames: number },
  rule: FolderRule,
): { width: number; height: number } | undefined {
  if (!SHRINKABLE.has(picture.mime) || picture.frames > 1) return undefined;
  const longer = Math.max(picture.width, picture.height);
  const tooLarge = rule.largestSide !== null && longer > rule.largestSide;
  const tooHeavy = rule.largestBytes !== null && picture.bytes > rule.largestBytes;
  if (!tooLarge && !tooHeavy) return undefined;
  const scale = tooLarge ? rule.largestSide! / longer : 1;
  return {
    width: Math.max(1, Math.round(picture.width * scale)),
    height: Math.max(1, Math.round(picture.height * scale)),
  };
}
