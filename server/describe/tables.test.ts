import { text } from 'node:stream/consumers';
import { afterEach, expect, test } from 'vitest';
import { closeSites, openSite, picture, siteFolder } from '../test/site.ts';
import { readWordsTable, wordsTable } from './tables.ts';

afterEach(closeSites);

test('addresses in the table are those under which a public folder is served, out and in', async () => {
  const site = await openSite(
    await siteFolder({
      'content/post.md': '![a](/pics/one.png) ![b](/pics/two.png)',
      'static/pics/one.png': await picture(1),
      'static/pics/two.png': await picture(2),
    }),
  );
  expect([...site.index.map.roots]).toEqual(['static']);
  const item = site.items.atPath('static/pics/one.png')!;
  expect(await text(wordsTable(site, [item]))).toContain(',static/pics/one.png,/pics/one.png,');
  for (const address of ['/pics/one.png', 'https://site.example/pics/one.png', 'pics//one.png']) {
    const { changes } = await readWordsTable(site, `address,alt\r\n${address},A hill\r\n`);
    expect(changes.map((one) => [one.itemId, one.rowVersion])).toEqual([[item.id, item.rowVersion]]);
  }
  const none = await readWordsTable(site, 'address,alt\r\n/static/none.png,x\r\n');
  expect(none.changes).toEqual([]);
});
