import type { Kind } from './kinds.ts';
import { baseName, type SitePath } from './path.ts';
import { addressOf } from './redirects.ts';

export interface SnippetItem {
  path: SitePath;
  kind: Kind;
  width: number | null;
  height: number | null;
  words: { alt: string; decorative: boolean; title: string };
}

/**
 * An item's address, bare or ready to be put on a page: images with their alt text and size, videos and sounds with
 * controls, anything else as a link whose text is its title.
 */
export function snippetOf(
  item: SnippetItem,
  form: 'plain' | 'html' | 'markdown',
  roots: readonly SitePath[] = [''],
): string {
  const address = addressOf(item.path, roots);
  const { alt, decorative, title } = item.words;
  const text = title || baseName(item.path);
  if (form === 'plain') return address;
  if (form === 'markdown') {
    const plain = (words: string) => words.replace(/[\\[\]*_`<>]/g, '\\$&').replace(/\s+/g, ' ');
    const to = address.replace(/[()]/g, (bracket) => (bracket === '(' ? '%28' : '%29'));
    return item.kind === 'image' ? `![${plain(decorative ? '' : alt)}](${to})` : `[${plain(text)}](${to})`;
  }
  const src = escape(address);
  if (item.kind === 'image') {
    const size = item.width && item.height ? ` width="${item.width}" height="${item.height}"` : '';
    // An empty alt text would say that it is decorative: where there are no words yet, none are written.
    const words = decorative || alt.trim() !== '' ? ` alt="${escape(decorative ? '' : alt)}"` : '';
    return `<img src="${src}"${words}${size}>`;
  }
  if (item.kind === 'video' || item.kind === 'audio')
    return `<${item.kind} src="${src}" controls preload="metadata"></${item.kind}>`;
  return `<a href="${src}">${escape(text)}</a>`;
}

function escape(text: string): string {
  return text.replace(/&/g, '&amp;').replace(/"/g, '&quot;').replace(/</g, '&lt;').replace(/>/g, '&gt;');
}
