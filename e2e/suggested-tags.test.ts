import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { By, Key } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { DescribeView, ItemDetail, ItemList } from '../api/items.ts';
import type { PlanRequest } from '../api/plans.ts';
import sharp from 'sharp';
import { serveTagger } from '../demo/tagger/tagger.ts';
import { subjects } from '../demo/bank/pictures.ts';
import type { Browser } from './browser.ts';
import { Session } from './session.ts';

/** Tags are suggested by what images look like, taken or refused in one change, and told apart until somebody confirms them. */
let tagger: Server;
const session = new Session('suggested-tags', async () => {
  tagger = serveTagger(join(session.folder, 'tagger'));
  await new Promise<void>((done) => tagger.listen(0, '127.0.0.1', done));
  return ['--tagging-service', `http://127.0.0.1:${(tagger.address() as AddressInfo).port}`];
});
let browser: Browser;
beforeAll(() => {
  ({ browser } = session);
});
afterAll(() => {
  tagger.close();
  tagger.closeAllConnections();
});

/** What the bar says: tags, images that get one, images in all. */
async function counts(): Promise<[number, number, number]> {
  const bar = await browser.see(
    By.css('.bar [role=status]'),
    'how much is suggested',
    /\d+ tags? on \d+ images? of/,
  );
  const [, tags, images, all] = /([\d,]+) tags? on ([\d,]+) images? of ([\d,]+)/.exec(await bar.getText())!;
  return [tags!, images!, all!].map((text) => Number(text.replaceAll(',', ''))) as [number, number, number];
}
const json = async <Answer>(path: string) =>
  (await (await fetch(`${session.server.address}/api${path}`)).json()) as Answer;
const tagged = async (tag: string) =>
  (await json<ItemList>(`/items?where=${encodeURIComponent(`tag:${tag}`)}&limit=500`)).total;
const tile = (group: string, at: number) =>
  browser.see(
    By.xpath(`//section[@aria-label='Tag ${group}']//li[${at}]/button`),
    `image ${at} of the tag ${group}`,
  );

/** A change, as a program makes it. */
async function change(request: PlanRequest): Promise<void> {
  const post = async (path: string, body: object) =>
    (await (
      await fetch(`${session.server.address}/api${path}`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', Origin: session.server.address },
        body: JSON.stringify(body),
      })
    ).json()) as { id: string };
  const { id } = await post('/plans', request);
  await post(`/plans/${id}/apply`, {});
}
/** People have tagged every other image of some subjects. */
async function tagSome(): Promise<void> {
  for (const [name, tag] of [
    ['dome-', 'dome'],
    ['DSC_', 'dome'],
    ['moon-', 'Moon'],
    ['galaxy-', 'galaxy'],
    ['nebula-', 'nebula'],
    ['star-trails', 'star trails'],
  ] as const) {
    const { items } = await json<ItemList>(
      `/items?where=${encodeURIComponent(`kind:image,name:${name}`)}&limit=500`,
    );
    await change({
      kind: 'records',
      itemIds: items.filter((_, at) => at % 2 === 0).map(({ id }) => id),
      addTags: [tag],
    });
  }
}

test('for all that is in the tray: at a threshold, two refused, the rest taken in one change, and undone', async () => {
  await tagSome();
  await session.go('/library?folder=images&where=kind:image');
  await browser.click('Add all to tray');
  await browser.text('in the tray');
  await session.go('/describe/tags?of=tray');
  await browser.text('has not looked at these');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click('Suggest tags');
  await browser.button('Suggest again');
  const [tags, images, all] = await counts();
  expect(all).toBeGreaterThanOrEqual(60);
  expect(tags).toBeGreaterThan(10);
  expect(images).toBeLessThanOrEqual(all);
  await browser.text('Because it looks like');
  expect(await session.faultsOfAccess()).toEqual([]);

  // How sure it must be, by keys: the figures follow.
  const slider = await browser.see(By.css('[role=slider]'), 'how sure it must be');
  await slider.sendKeys(...Array<string>(4).fill(Key.ARROW_LEFT));
  await browser.text('40 %');
  expect((await counts())[0]).toBeGreaterThan(tags);
  await slider.sendKeys(...Array<string>(4).fill(Key.ARROW_RIGHT));
  await browser.text('60 %');
  expect(await counts()).toEqual([tags, images, all]);

  const before = await tagged('dome');
  for (const at of [1, 2]) await (await tile('dome', at)).click();
  expect(await (await tile('dome', 1)).getAttribute('aria-label')).toContain('refused');
  expect((await counts())[0]).toBe(tags - 2);
  const section = await browser.see(By.xpath("//section[@aria-label='Tag dome']//header"), 'the tag');
  const domes = Number(/(\d+) images/.exec(await section.getText())![1]);
  await browser.click('refuse 2');
  await browser.text(`Add ${tags - 2} suggested tags`);
  const change = await browser.see(By.css('[role=dialog] .main'), 'the button that applies it');
  await change.click();
  await browser.text(`Done. Add ${tags - 2} suggested tags`);
  await browser.text('Nothing to add');
  expect(await tagged('dome')).toBe(before + domes - 2);
  // Neither what was taken nor what was refused is offered again.
  expect(await browser.screen()).not.toMatch(/^dome$/m);

  await browser.click('Undo');
  await browser.inDialog('Undo');
  await browser.text('Done. Undo: Add');
  expect(await tagged('dome')).toBe(before);
  await browser.text(`Add ${tags} tags to`);
  expect(await counts()).toEqual([tags, images, all]);
});

test('a new tag waits for somebody who wants it; one click takes all, one leaves them', async () => {
  await session.go('/describe/tags?of=all');
  await browser.button('Suggest again');
  await browser.text('new tag');
  const [tags] = await counts();
  const night = By.xpath("//section[@aria-label='Tag night']//button");
  const act = async (name: string) => {
    for (const one of await browser.driver.findElements(night))
      if ((await one.getText()).startsWith(name)) return one.click();
    throw new Error(`the tag has no “${name}”`);
  };
  await act('Add all');
  expect((await counts())[0]).toBeGreaterThan(tags);
  await act('Leave all');
  expect((await counts())[0]).toBe(tags);
  await act('Refuse all');
  expect((await counts())[0]).toBe(tags);
  await browser.text(', refuse');
});

test('the record tells suggested tags apart until somebody confirms them', async () => {
  const [item] = (await json<ItemList>('/items?where=kind:image,no:tags&limit=1')).items;
  await change({
    kind: 'suggested-tags',
    suggestions: [{ itemId: item!.id, take: ['comet night'], refuse: [] }],
  });
  await session.go(`/library?item=${item!.id}`);
  await browser.text('Suggested, not confirmed: comet night.');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click('Confirm it');
  await browser.text('Done. Confirm 1 suggested tag of 1 item');
  await browser.gone('Suggested, not confirmed');
  const detail = await json<ItemDetail>(`/items/${item!.id}`);
  expect([detail.item.words.tags, detail.unconfirmed]).toEqual([['comet night'], []]);
});

test('while one image is described, its tags are one click away', async () => {
  const { items } = await json<ItemList>(
    `/items?where=${encodeURIComponent('kind:image,no:tags')}&limit=200`,
  );
  let found: DescribeView | undefined;
  for (const { id } of items)
    found ??= await json<DescribeView>(`/items/${id}/describe`).then((view) =>
      view.suggestedTags.length > 0 ? view : undefined,
    );
  const { item, suggestedTags } = found!;
  const { tag } = suggestedTags[0]!;
  await session.go(`/describe?where=${encodeURIComponent(`name:${item.name}`)}`);
  await browser.click(`Add the tag ${tag}`);
  await browser.button(`Remove tag ${tag}`);
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.press(Key.chord(Key.CONTROL, Key.ENTER));
  await browser.driver.wait(
    async () => (await json<ItemDetail>(`/items/${item.id}`)).item.words.tags.includes(tag),
    20_000,
    'the tag is in the record',
  );
  // Somebody has chosen it by itself: there is nothing to confirm.
  expect((await json<ItemDetail>(`/items/${item.id}`)).unconfirmed).toEqual([]);
});

test('files at the door get their tags before they are brought in', async () => {
  await session.go('/intake');
  const files: string[] = [];
  const snow = subjects('tests').filter(({ title }) => /snow/i.test(title));
  for (const [at, subject] of snow.slice(0, 2).entries()) {
    const file = join(session.folder, `moor-in-winter-${at + 1}.jpg`);
    await writeFile(
      file,
      await sharp(Buffer.from(subject.draw(900, 600)))
        .flatten({ background: '#fff' })
        .jpeg()
        .toBuffer(),
    );
    files.push(file);
  }
  await session.drop(...files);
  await browser.text('Bring in 2 items');
  await browser.click('Suggest tags …');
  await browser.inDialog('Suggest tags');
  await browser.text('snow');
  await browser.clickAt(
    By.xpath("//section[@aria-label='Tag snow']//button[starts-with(normalize-space(.), 'Add all')]"),
    'Add all',
  );
  await browser.click('Add 2 tags to 2 images');
  await browser.text('They go along when you bring the images in.');
  await browser.press(Key.ESCAPE);
  await browser.click('Bring in 2 items');
  await browser.text('Done. Bring in');
  const { items } = await json<ItemList>(`/items?where=${encodeURIComponent('tag:snow,name:winter')}`);
  expect(items).toHaveLength(2);
  expect((await json<ItemDetail>(`/items/${items[0]!.id}`)).unconfirmed).toEqual(['snow']);
});

test('a steward sets how many images a month may be sent; what has to wait is told', async () => {
  await session.go('/describe/tags?of=all');
  await browser.click('Tagging service …');
  await browser.fill('Images a month, at most', '1');
  await browser.press(Key.TAB);
  await browser.inDialog('Save');
  await browser.text('Done. Send the tagging service 1 image a month at most');
  await browser.text('of 1 image sent this month');
  await browser.text('0 may be sent this month');
});
