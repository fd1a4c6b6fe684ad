import { withoutQuery } from '../text/cut.ts';
import { ITEM_EXTENSIONS } from '../address/kinds.ts';

/** One address and nothing else, whose path ends in a media extension. */
export function looksLikeMediaAddress(value: string): boolean {
  const path = withoutQuery(value.trim());
  if (/[\s<>"'{}|\\^`]/.test(path) || path.length > 2000) return false;
  const dot = path.lastIndexOf('.');
  return dot >= 0 && dot > path.lastIndexOf('/') && ITEM_EXTENSIONS.has(path.slice(dot).toLowerCase());
}

export function looksLikeSrcset(value: string): boolean {
  const candidates = srcsetCandidates(value);
  return (
    candidates.length > 0 &&
    candidates.every(
      (one) => looksLikeMediaAddress(one.url) && /^$|^[\d.]+[wxh](\s+\d+h)?$/.test(one.descriptor),
    )
  );
}

/** The candidates of a srcset attribute (HTML standard, "parse a srcset attribute"): addresses may hold commas. */
export function srcsetCandidates(text: string): SrcsetCandidate[] {
  const candidates: SrcsetCandidate[] = [];
  let at = 0;
  while (at < text.length) {
    while (at < text.length && /[\t\n\f\r ,]/.test(text[at]!)) at++;
    if (at >= text.length) break;
    const start = at;
    while (at < text.length && !/[\t\n\f\r ]/.test(text[at]!)) at++;
    let end = at;
    let descriptor = '';
    if (text[end - 1] === ',') {
      while (end > start && text[end - 1] === ',') end--;
    } else {
      const from = at;
      let depth = 0;
      while (at < text.length && (depth > 0 || text[at] !== ',')) {
        if (text[at] === '(') depth++;
        else if (text[at] === ')') depth = Math.max(0, depth - 1);
        at++;
      }
      descriptor = text.slice(from, at).trim();
    }
    candidates.push({ url: text.slice(start, end), start, end, descriptor });
  }
  return candidates;
}

export interface SrcsetCandidate {
  url: string;
  /** Offsets of the url in the attribute's decoded text. */
  start: number;
  end: number;
  descriptor: string;
}
