import { afterEach, expect, test } from 'vitest';
import sharp from 'sharp';
import { closeSites, openSite, siteFolder } from '../test/site.ts';
import { backgroundsOf } from './backgrounds.ts';

afterEach(closeSites);
const dot = () =>
  sharp({ create: { width: 4, height: 4, channels: 3, background: '#804020' } })
    .png()
    .toBuffer();

test('what the style sheets of a page show, with sheets brought in, style elements, and plans of sheets', async () => {
  const root = await siteFolder({
    'p/index.html':
      '<link rel=stylesheet href="../css/a.css"><style>\n.in { background: url(../img/c.png) }</style><p style="background:url(../img/a.png)">x',
    'css/a.css':
      '@import "b.css";\n@import "a.css";\n.hero{background:url(../img/a.png)} .x{background:url(data:image/png,a),url(gone.png)} @media print{.y::after{content:url(../img/b.png)}}',
    'css/b.css': 'ul { list-style-image: url("../img/a.png") }',
    'css/other.css': '.o { background: url(../img/a.png) }',
    'img/a.png': await dot(),
    'img/b.png': await dot(),
    'img/c.png': await dot(),
  });
  const site = await openSite(root);
  const said = (found: Awaited<ReturnType<typeof backgroundsOf>>) =>
    found.map(({ at, page, path, selectors }) => [at, page, path, selectors]);
  const found = await backgroundsOf(site, 'p/index.html');
  expect(said(found)).toEqual([
    [found[0]!.start, 'p/index.html', 'img/c.png', '.in'],
    [-1, 'css/a.css', 'img/a.png', '.hero'],
    [-2, 'css/a.css', 'img/b.png', '.y::after'],
    [-3, 'css/b.css', 'img/a.png', 'ul'],
  ]);
  const planned = new Map([
    [
      'css/a.css',
      Buffer.from('@import "b.css";.hero{background:url(../img/c.png)} .y{content:url(../img/b.png)}'),
    ],
  ]);
  expect(said(await backgroundsOf(site, 'p/index.html', planned)).slice(1)).toEqual([
    [-1, 'css/a.css', 'img/c.png', '.hero'],
    [-2, 'css/a.css', 'img/b.png', '.y'],
    [-3, 'css/b.css', 'img/a.png', 'ul'],
  ]);
});
