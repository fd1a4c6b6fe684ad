import { expect, test } from 'vitest';
import type { SitePath } from '../address/path.ts';
import { seeded } from '../test/chance.ts';
import { readPage } from './read.ts';
import { SiteMap } from './resolve.ts';
import { rewritePage } from './rewrite.ts';
import { readSource } from './source.ts';

const NAMES = [
  'a.png',
  'b c.png',
  'ü.png',
  'x&y.png',
  'q#1.png',
  '100%.png',
  "o'k.png",
  '(1).png',
  'a,b.png',
  'e\u0301.png',
  '%41.png',
  '星.png',
];
/** Of these every second page consists: what it will be read as is then carried over, not read. */
const PLAIN_NAMES = ['a.png', 'b-2.png', 'long_name.with.dots.png', 'C.png', 'a-copy.png'];
const FOLDERS = ['', 'img', 'img/deep', 'bilder ö'];
const PAGES = [
  'index.html',
  'docs/p.html',
  'css/s.css',
  'notes/n.md',
  'img/d.svg',
  'data/d.json',
  'data/y.yaml',
  'feed/f.xml',
];

function address(next: (below: number) => number, page: SitePath, target: SitePath): string {
  const encoded = target
    .split('/')
    .map((name) => (next(2) || /[#%?]/.test(name) ? encodeURIComponent(name) : name))
    .join('/');
  const up = '../'.repeat(page.split('/').length - 1);
  return (
    [
      `/${encoded}`,
      up + encoded,
      `./${up}${encoded}`,
      `https://www.site.example/${encoded}`,
      `//site.example/${encoded}`,
    ][next(5)]! + ['', '?v=1', '#x'][next(3)]!
  );
}

/** Addresses that could not stand bare at this place are percent-encoded first. */
function write(next: (below: number) => number, page: SitePath, target: SitePath): string {
  const url = address(next, page, target);
  const strict = url.replace(/[ '(),&]/g, (char) => `%${char.charCodeAt(0).toString(16)}`);
  if (page.endsWith('.css'))
    return [`.a{background:url(${strict})}`, `.a{background:url("${url}")}`, `.b{x:image-set("${url}" 1x)}`][
      next(3)
    ]!;
  if (page.endsWith('.md'))
    return [
      `![é](${strict} "t")`,
      `[x](<${url}>)`,
      `\n\n[r${next(99)}]: ${strict}\n\n`,
      `<img src="${url.replace(/&/g, '&amp;')}">`,
    ][next(4)]!;
  const html = url.replace(/&/g, '&amp;');
  if (page.endsWith('.json'))
    return [
      JSON.stringify(strict),
      JSON.stringify(strict).replaceAll('/', '\\/'),
      JSON.stringify(strict).replaceAll('i', '\\u0069'),
    ][next(3)]!;
  if (page.endsWith('.yaml'))
    return [`"${strict}"`, `'${strict.replaceAll("'", "''")}'`, strict, `{ a: "${strict}" }`][next(4)]!;
  if (page.endsWith('.xml'))
    return [
      `<enclosure url="${html.replace(/ /g, '%20')}"/>`,
      `<image:loc> ${html.replace(/ /g, '%20')} </image:loc>`,
      `<description><![CDATA[<p><img src="${html}"></p>]]></description>`,
      `<content type="html">&lt;img src=&quot;${strict}&quot;&gt;</content>`,
    ][next(4)]!;
  if (page.endsWith('.svg')) return `<image href="${html}"/>`;
  return [
    `<img src="${html}" alt="é">`,
    `<a href='${strict}'>x</a>`,
    `<img src=${strict}>`,
    `<source srcset="${strict} 1x, ${strict} 2x">`,
    `<p style="background:url(${strict})">`,
    `<style>p{b:url("${url}")}</style>`,
    `<video poster="${html}"></video>`,
  ][next(7)]!;
}

/** Six things written one after the other, as a whole file of its language. */
function wrapped(page: SitePath, body: string): string {
  const parts = body.split('ßß\r\n').slice(1);
  if (page.endsWith('.svg')) return `<svg xmlns="http://www.w3.org/2000/svg">${body}</svg>`;
  if (page.endsWith('.xml')) return `<?xml version="1.0"?>\r\n<rss>${body}</rss>`;
  if (page.endsWith('.json'))
    return `{"ß": [\r\n${parts.map((part) => part.replace(/ a\.png $/, '')).join(', "a png",\r\n')}]}`;
  if (page.endsWith('.yaml'))
    return parts.map((part, i) => `ß${i}: ${part.replace(/ a\.png $/, '')} # a.png\r\n`).join('');
  return body;
}

test('whatever moves wherever: every reference leads to the same file as before, and no other byte changes', () => {
  let spans = 0;
  let fromKnown = 0;
  for (let seed = 1; seed <= 800; seed++) {
    const next = seeded(seed * 7919).below;
    const plain = seed % 2 === 0;
    const names = plain ? PLAIN_NAMES : NAMES;
    const folders = plain ? ['', 'img', 'img/deep'] : FOLDERS;
    const targets = names.flatMap((name) => folders.map((folder) => (folder ? `${folder}/${name}` : name)));
    const page = PAGES[next(PAGES.length)]!;
    const body = Array.from(
      { length: 6 },
      () => `ßß\r\n${write(next, page, targets[next(targets.length)]!)} a.png `,
    ).join('');
    const text = wrapped(page, body);
    const bytes = new TextEncoder().encode(text);
    const before = new SiteMap([...targets, ...PAGES], [], [{ host: 'site.example', prefix: '/' }]);
    const moves = new Map<SitePath, SitePath>();
    for (const target of targets)
      if (next(3) === 0)
        moves.set(
          target,
          `${plain ? ['i', 'img', 'images/deep/er'][next(3)] : `new ${next(3)}/sub${next(2)}`}/${next(1e6)}-${target.split('/').at(-1)!}`,
        );
    if (page.endsWith('.svg')) moves.set(page, 'elsewhere/far/d.svg');
    const after = before.withMoves(moves);
    const result = rewritePage(page, bytes, moves, before, after);
    const read = (path: SitePath, content: Uint8Array, site: SiteMap) => {
      const source = readSource(content);
      if ('unread' in source) throw new Error(source.unread);
      return readPage(path, source).references.map((one) => site.resolve(one.url, path));
    };
    const wanted = read(page, bytes, before).map((one) =>
      one.to === 'file' ? { to: 'file', path: moves.get(one.path) ?? one.path } : one,
    );
    expect(wanted.filter((one) => one.to === 'file').length, `seed ${seed}: ${text}`).toBeGreaterThan(3);
    if (!moves.has(page)) {
      // From what the page was last read as, the outcome is the same, and what it will be read as is told.
      const source = readSource(bytes);
      if ('unread' in source) throw new Error(source.unread);
      const known = rewritePage(page, bytes, moves, before, after, readPage(page, source));
      if (known && 'bytes' in known) {
        const { reading, ...same } = known;
        expect(same, `seed ${seed}`).toEqual(result);
        const again = readSource(known.bytes);
        expect(reading).toEqual('raw' in again && readPage(page, again));
        fromKnown++;
      } else expect(known).toEqual(result);
    }
    if (result && 'refused' in result) throw new Error(`seed ${seed}: ${result.refused}`);
    const now = result?.bytes ?? bytes;
    expect(read(moves.get(page) ?? page, now, after), `seed ${seed}`).toEqual(wanted);

    // Outside the replaced spans every byte is where it was.
    let shift = 0;
    let at = 0;
    for (const change of [...(result?.changes ?? [])].sort((a, b) => a.start - b.start)) {
      expect(
        Buffer.compare(now.subarray(at + shift, change.start + shift), bytes.subarray(at, change.start)),
        `seed ${seed}`,
      ).toBe(0);
      shift += change.insert.length - (change.end - change.start);
      at = change.end;
      spans++;
    }
    expect(Buffer.compare(now.subarray(at + shift), bytes.subarray(at)), `seed ${seed}`).toBe(0);
  }
  expect(spans).toBeGreaterThan(300);
  expect(fromKnown).toBeGreaterThan(100);
});
