/**
 * Cuts of texts whose time grows with the text and no more than that. (A regular expression that ends with `$` and begins with a repetition
 * tries each character of a run anew: its time grows with the square of the run.)
 */

/** Takes characters off both ends, or off one of them. @param which those that go, as one text */
export function trim(text: string, which: string, ends: 'both' | 'start' | 'end' = 'both'): string {
  let [from, to] = [0, text.length];
  if (ends !== 'end') while (from < to && which.includes(text[from]!)) from++;
  if (ends !== 'start') while (to > from && which.includes(text[to - 1]!)) to--;
  return text.slice(from, to);
}

/** An address without its query and fragment. */
export function withoutQuery(url: string): string {
  const at = url.search(/[?#]/);
  return at < 0 ? url : url.slice(0, at);
}

/** The last number of a text, in digits of any script; '' when there is none. */
export function lastNumber(text: string): string {
  const chars = [...text];
  const isDigit = (at: number) => at >= 0 && /^\p{N}$/u.test(chars[at]!);
  let to = chars.length;
  while (to > 0 && !isDigit(to - 1)) to--;
  let from = to;
  while (isDigit(from - 1)) from--;
  return chars.slice(from, to).join('');
}
