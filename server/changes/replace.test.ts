import { join } from 'node:path';
import { readFile } from 'node:fs/promises';
import { afterEach, expect, test } from 'vitest';
import { apply, idOf, plan } from '../test/plans.ts';
import { closeSites, openSite, picture, siteFolder } from '../test/site.ts';

afterEach(closeSites);

const svg = (inner: string) => `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 4 4">${inner}</svg>`;

test('a drawing from another folder keeps its inner references leading where they led', async () => {
  const root = await siteFolder({
    'index.html': '<title>Home</title><img src="img/map.svg">',
    'img/map.svg': svg('<rect width="4" height="4"/>'),
    'art/new/map.svg': svg('<image href="tile.png"/><image href="../far.png#x"/>'),
    'art/new/tile.png': await picture(1),
    'art/far.png': await picture(2),
  });
  const site = await openSite(root);
  await apply(site, {
    kind: 'replace',
    itemId: idOf(site, 'img/map.svg'),
    by: { itemId: idOf(site, 'art/new/map.svg') },
    name: 'keep',
    dates: 'keep',
  });
  expect(await readFile(join(root, 'img/map.svg'), 'utf8')).toBe(
    svg('<image href="../art/new/tile.png"/><image href="../art/far.png#x"/>'),
  );
  expect(await readFile(join(root, 'art/new/map.svg'), 'utf8')).toContain('href="tile.png"');
  expect(site.references.brokenCount()).toBe(0);
});

test('one that shows what is not there says so', async () => {
  const root = await siteFolder({
    'index.html': '<title>Home</title><img src="img/map.svg">',
    'img/map.svg': svg('<rect width="4" height="4"/>'),
    'art/map.svg': svg('<image href="gone.png"/>'),
  });
  const site = await openSite(root);
  const { plan: replaced } = await plan(site, {
    kind: 'replace',
    itemId: idOf(site, 'img/map.svg'),
    by: { itemId: idOf(site, 'art/map.svg') },
    name: 'keep',
    dates: 'keep',
  });
  expect(replaced.warnings.join()).toContain('gone.png” leads nowhere');
});
