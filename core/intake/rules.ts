import type { Kind } from '../address/kinds.ts';
import type { SitePath } from '../address/path.ts';
import type { Words } from '../describe/fields.ts';
import { followsPattern } from '../naming/follows.ts';
import { missesTreatment, type Treatment } from '../picture/recipe/treatments.ts';
import { patternInWords, type NamePattern } from '../naming/pattern.ts';

/** What a folder is for: what its items must have, what is more than useful, what they are given. Null: no such rule. */
export interface FolderRule {
  folder: SitePath;
  /** In the person's words: 'wide images at the head of a page'. */
  purpose: string;
  /** Pixels that an image needs at least. */
  leastWidth: number | null;
  leastHeight: number | null;
  /** Pixels of the longer side beyond which an image is made smaller. */
  largestSide: number | null;
  /** Width to height, '3:2'. */
  shape: string | null;
  /** Bytes beyond which an image is made lighter. */
  largestBytes: number | null;
  /** Keep the image as it was sent beside a smaller copy. */
  keepOriginal: boolean;
  /** Kinds of items that belong there. */
  kinds: readonly Kind[] | null;
  /** The pattern of names there; null: as they like. */
  pattern: NamePattern | null;
  /** What is made of images that come in, unless a person says that they stay. */
  treatment: Treatment | null;
  /** Tags that what comes in is given. */
  tags: readonly string[];
  /** Licence of what comes in without one. */
  licence: string;
}

/** A rule as it is kept: without a treatment it reads as those from before there were any. */
export function asSetting<Rule extends { treatment?: Treatment | null }>(rule: Rule): Rule {
  if (rule.treatment) return rule;
  const { treatment: _, ...rest } = rule;
  return rest as Rule;
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
  kinds: null,
  pattern: null,
  treatment: null,
  tags: [],
  licence: '',
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

/** '3:2' -> 3 and 2. Undefined when it is not of the form number:number. */
function sidesOf(text: string): [number, number] | undefined {
  const parts = /^\s*(\d+(?:\.\d+)?)\s*[:/x×]\s*(\d+(?:\.\d+)?)\s*$/.exec(text);
  if (!parts) return undefined;
  const [width, height] = [Number(parts[1]), Number(parts[2])];
  return width > 0 && height > 0 ? [width, height] : undefined;
}

/** '3:2' -> 1.5. Undefined when it is not of the form number:number. */
export function shapeOf(text: string): number | undefined {
  const sides = sidesOf(text);
  return sides && sides[0] / sides[1];
}

/** Width to height that images of the folder are to have; undefined: any. */
export function ratioOf({ shape, treatment }: FolderRule): [number, number] | undefined {
  return (shape === null ? undefined : sidesOf(shape)) ?? treatment?.shape?.ratio;
}

/** How far an image's shape may be from its rule's: 2 in 100. */
const SHAPE_TOLERANCE = 0.02;

export function hasShape(width: number, height: number, shape: string): boolean {
  const wanted = shapeOf(shape);
  return wanted === undefined || Math.abs(width / height / wanted - 1) <= SHAPE_TOLERANCE;
}

const KIND_WORDS: Record<Kind, string> = {
  image: 'images',
  video: 'videos',
  audio: 'audio',
  document: 'documents',
  other: 'other files',
};

/** 'pictures and videos'. */
export function kindsInWords(kinds: readonly Kind[]): string {
  const words = kinds.map((kind) => KIND_WORDS[kind]);
  return words.length > 1 ? `${words.slice(0, -1).join(', ')} and ${words.at(-1)}` : (words[0] ?? 'nothing');
}

/** In what an item that lies in a folder does not fit its rule: a sentence for each. */
export function ruleBreaks(
  item: {
    path: SitePath;
    kind: Kind;
    mime: string;
    width: number | null;
    height: number | null;
    bytes: number;
  },
  rule: FolderRule,
): string[] {
  const broken: string[] = [];
  if (rule.kinds && !rule.kinds.includes(item.kind))
    broken.push(`The folder is for ${kindsInWords(rule.kinds)}.`);
  if (rule.pattern && !followsPattern(item.path, rule.pattern))
    broken.push(`Names in this folder consist of ${patternInWords(rule.pattern)}.`);
  const { width, height } = item;
  if (item.kind !== 'image' || width === null || height === null) return broken;
  if (
    (rule.leastWidth !== null && width < rule.leastWidth) ||
    (rule.leastHeight !== null && height < rule.leastHeight)
  )
    broken.push(`It is smaller (${width} × ${height} px) than its folder requires.`);
  if (rule.largestSide !== null && isTooLarge({ width, height, bytes: item.bytes }, rule.largestSide))
    broken.push(`It is larger (${width} × ${height} px) than its folder's ${rule.largestSide} px.`);
  if (rule.largestBytes !== null && item.bytes > rule.largestBytes)
    broken.push(`The file is larger than its folder's ${Math.round(rule.largestBytes / 1000)} kB.`);
  if (rule.shape && !hasShape(width, height, rule.shape))
    broken.push(`Its aspect ratio isn’t ${rule.shape}, as the folder requires.`);
  const misses = rule.treatment && missesTreatment({ ...item, width, height }, rule.treatment);
  if (misses) broken.push(`The folder’s treatment “${rule.treatment!.name}” ${misses}.`);
  return broken;
}

/** The words of what comes in, with what its folder gives it: tags are added, a licence where there is none. */
export function givenByRule(words: Partial<Words>, rule: FolderRule): Partial<Words> {
  return {
    ...words,
    ...(rule.tags.length > 0 ? { tags: [...(words.tags ?? []), ...rule.tags] } : {}),
    ...(rule.licence !== '' && !words.licence ? { licence: rule.licence } : {}),
  };
}

/** A rule in few words: 'pictures; at least 1200 × 800 px; 3:2'. */
export function ruleInWords(rule: Omit<FolderRule, 'folder'>): string {
  const { leastWidth, leastHeight, largestSide, largestBytes } = rule;
  return [
    rule.purpose,
    rule.kinds && kindsInWords(rule.kinds),
    (leastWidth || leastHeight) && `at least ${leastWidth ?? 1} × ${leastHeight ?? 1} px`,
    largestSide && `at most ${largestSide} px`,
    largestBytes && `at most ${Math.round(largestBytes / 1000)} kB`,
    rule.shape,
    rule.treatment && `treated as “${rule.treatment.name}”`,
    rule.pattern && `names of ${patternInWords(rule.pattern)}`,
    rule.tags.length > 0 && `tagged ${rule.tags.map((tag) => `“${tag}”`).join(', ')}`,
    rule.licence && `licence ${rule.licence}`,
  ]
    .filter(Boolean)
    .join('; ');
}

/** Formats that can be made smaller at the door without changing what they are. */
const SHRINKABLE = new Set(['image/jpeg', 'image/png', 'image/webp', 'image/avif', 'image/tiff']);

/** Once as long as it is wide so many times, an image is a panorama or a strip; below so many bytes, nothing is saved. */
const EXTREME_SHAPE = 3;
const LIGHT = 20_000;

/** Whether an image is larger than a folder's longest side. A panorama would be shrunk to nothing: its shorter side counts. */
function isTooLarge(picture: { width: number; height: number; bytes: number }, largestSide: number): boolean {
  const longer = Math.max(picture.width, picture.height);
  const shorter = Math.min(picture.width, picture.height);
  if (picture.bytes < LIGHT) return false;
  return (longer >= EXTREME_SHAPE * shorter ? shorter : longer) > largestSide;
}

/**
 * The size an image is brought to by its folder's rule: never larger than it is. Undefined: it stays as it is.
 * @param image pixels after orientation, bytes, media type; `frames` over 1: an animation, which stays
 */
export function shrunkSize(
  picture: { width: number; height: number; bytes: number; mime: string; frames: number },
  rule: FolderRule,
): { width: number; height: number } | undefined {
  if (!SHRINKABLE.has(picture.mime) || picture.frames > 1) return undefined;
  const longer = Math.max(picture.width, picture.height);
  const shorter = Math.min(picture.width, picture.height);
  const tooLarge = rule.largestSide !== null && isTooLarge(picture, rule.largestSide);
  const tooHeavy = rule.largestBytes !== null && picture.bytes > rule.largestBytes;
  if (!tooLarge && !tooHeavy) return undefined;
  const side = longer >= EXTREME_SHAPE * shorter ? shorter : longer;
  const scale = tooLarge ? rule.largestSide! / side : 1;
  return {
    width: Math.max(1, Math.round(picture.width * scale)),
    height: Math.max(1, Math.round(picture.height * scale)),
  };
}
