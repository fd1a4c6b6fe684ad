import { toHtml } from 'hast-util-to-html';
import { fromMarkdown } from 'mdast-util-from-markdown';
import { gfmFromMarkdown } from 'mdast-util-gfm';
import { toHast } from 'mdast-util-to-hast';
import { gfm } from 'micromark-extension-gfm';

/** Markdown as HTML; front matter and HTML in it are left out. */
export function markdownOnPaper(text: string): string {
  const body = text.replace(/^(---|\+\+\+)\r?\n[\s\S]*?\r?\n\1\r?\n/, '');
  const tree = fromMarkdown(body, { extensions: [gfm()], mdastExtensions: [gfmFromMarkdown()] });
  return `<article>${toHtml(toHast(tree))}</article>`;
}
