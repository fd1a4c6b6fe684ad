import { fromMarkdown } from 'mdast-util-from-markdown';
import { refuseDeepLines } from '../text/depth.ts';

/** So many marks of emphasis may stand in one paragraph: the parser compares each with those before it. */
const MOST_MARKS = 5000;

/** Markdown as a tree (CommonMark). @throws RangeError when its parser would not come to an end with it */
export function markdownTree(text: string): ReturnType<typeof fromMarkdown> {
  refuseDeepLines(text);
  let marks = 0;
  for (let at = 0; at < text.length; at++) {
    const char = text[at]!;
    if (char === '\n' && /[\n\r]/.test(text[at + 1] ?? '')) marks = 0;
    else if ((char === '*' || char === '_') && text[at - 1] !== char && ++marks > MOST_MARKS)
      throw new RangeError('A paragraph of it holds too many marks of emphasis');
  }
  return fromMarkdown(text);
}
