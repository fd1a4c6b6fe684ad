import { expect, test } from 'vitest';
import { snippetOf, type SnippetItem } from './snippet.ts';

const item = (values: Partial<SnippetItem> = {}): SnippetItem => ({
  path: 'images/the dome (2).jpg',
  kind: 'image',
  width: 1600,
  height: 1000,
  words: { alt: 'A "dome" & <stars>', decorative: false, title: 'The [dome]' },
  ...values,
});

test('images come with alt text and size, safe in their place', () => {
  expect(snippetOf(item(), 'plain')).toBe('/images/the%20dome%20%282%29.jpg');
  expect(snippetOf(item(), 'html')).toBe(
    '<img src="/images/the%20dome%20%282%29.jpg" alt="A &quot;dome&quot; &amp; &lt;stars&gt;" width="1600" height="1000">',
  );
  expect(snippetOf(item(), 'markdown')).toBe('![A "dome" & \\<stars\\>](/images/the%20dome%20%282%29.jpg)');
});

test('decorative images have an empty alt text, images without a size none', () => {
  const one = item({ width: null, words: { alt: 'x', decorative: true, title: '' } });
  expect(snippetOf(one, 'html')).toBe('<img src="/images/the%20dome%20%282%29.jpg" alt="">');
});

test('videos and audio files can be played; a document is a link with its title, never its file name if it has one', () => {
  const sheet = item({ path: 'a/plan.pdf', kind: 'document' });
  expect(snippetOf(item({ path: 'a/x.mp4', kind: 'video' }), 'html')).toBe(
    '<video src="/a/x.mp4" controls preload="metadata"></video>',
  );
  expect(snippetOf(sheet, 'html')).toBe('<a href="/a/plan.pdf">The [dome]</a>');
  expect(snippetOf(sheet, 'markdown')).toBe('[The \\[dome\\]](/a/plan.pdf)');
  expect(snippetOf({ ...sheet, words: { alt: '', decorative: false, title: '' } }, 'html')).toBe(
    '<a href="/a/plan.pdf">plan.pdf</a>',
  );
});
