import { Key, Origin } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { Session } from './session.ts';

/**
 * The tasks of every day, and how many clicks and keys each takes: counted in the window as they happen. Text that is typed
 * into a field is not counted; what goes round it is (Enter, Tab, Escape, letters that start an act).
 */
const session = new Session('tasks');
let browser: Browser;
let root: string;
beforeAll(async () => {
  ({ browser, root } = session);
  await browser.command('Page.addScriptToEvaluateOnNewDocument', {
    source: `
      const done = JSON.parse(sessionStorage.getItem('done') ?? '{"clicks":0,"drags":0,"keys":0}');
      const keep = () => sessionStorage.setItem('done', JSON.stringify(done));
      let from;
      addEventListener('pointerdown', (event) => (from = event), true);
      const let_go = (event) => {
        if (!from) return;
        done[Math.hypot(event.clientX - from.clientX, event.clientY - from.clientY) > 12 ? 'drags' : 'clicks']++;
        from = undefined;
        keep();
      };
      addEventListener('pointerup', let_go, true);
      addEventListener('dragend', let_go, true);
      addEventListener('keydown', (event) => {
        const typing = event.target.closest?.('input:not([type=checkbox], [type=radio]), textarea') && event.key.length === 1;
        if (typing || ['Shift', 'Control', 'Alt', 'Meta'].includes(event.key)) return;
        done.keys++;
        keep();
      }, true);`,
  });
});

interface Done {
  clicks: number;
  drags: number;
  keys: number;
}
/** What a task took. */
async function counted(task: () => Promise<void>): Promise<Done> {
  const read = () => browser.driver.executeScript<string>("return sessionStorage.getItem('done')");
  const before = JSON.parse((await read()) ?? '{"clicks":0,"drags":0,"keys":0}') as Done;
  await task();
  const after = JSON.parse(await read()) as Done;
  return {
    clicks: after.clicks - before.clicks,
    drags: after.drags - before.drags,
    keys: after.keys - before.keys,
  };
}

test('twenty images are described: one click, and one key each', async () => {
  await session.go('/library');
  await browser.text('Add all to tray');
  const done = await counted(async () => {
    await browser.click('Describe');
    for (let number = 1; number <= 20; number++) {
      await browser.driver.wait(
        () =>
          browser.driver.executeScript<boolean>(
            "return (document.querySelector('footer')?.textContent ?? '').includes(arguments[0] + ' of ') && document.activeElement?.closest('.alt') !== null && document.activeElement.value === ''",
            String(number),
          ),
        20_000,
        `image ${number} and its empty field`,
      );
      await browser.press(`The hill in view ${number}`, Key.ENTER);
    }
    await browser.text('21 of');
  });
  expect(done).toEqual({ clicks: 1, drags: 0, keys: 20 });
});

test('all images of a folder get a common name with a counter: five clicks, two keys', async () => {
  const before = await treeOf(root);
  await session.go('/library?folder=images');
  await browser.text('Add all to tray');
  const done = await counted(async () => {
    await browser.click('Add all to tray');
    await browser.text('in the tray');
    await browser.press('n');
    await browser.text('Proof');
    await browser.click('Add part');
    await (await browser.see(By.xpath("//button[normalize-space(.)='Text']"), 'the part Text')).click();
    await browser.fill('Text', 'Corvane Hill');
    await browser.text('corvane-hill');
    const changing = Number(/(\d+) names will change/.exec(await browser.screen())![1]);
    expect(changing).toBeGreaterThan(50);
    await browser.click(`Review ${changing} new names`);
    await browser.text('References updated on');
    await session.applyPlan('Rename');
  });
  expect(done).toEqual({ clicks: 5, drags: 0, keys: 2 });
  await browser.click('Undo');
  await session.applyPlan('Undo');
  expect(await treeOf(root)).toEqual(before);
  await browser.click('Empty tray');
});

test('found, filtered, and the search kept: four clicks, three keys', async () => {
  await session.go('/library');
  await browser.text('Add all to tray');
  const kept = await counted(async () => {
    await browser.press('f');
    await browser.press('sky', Key.ENTER);
    await browser.text('matching “sky”');
    await browser.click('Add filter');
    await browser.click('File type');
    const image = By.xpath("//*[@aria-label='Add a filter']//button[starts-with(., 'image')]");
    await (await browser.see(image, 'the kind image')).click();
    await browser.text('kind is image');
    await browser.click('Save search');
    await browser.field('Name of the search');
    await browser.press('Sky images', Key.ENTER);
    await browser.button('Sky images');
  });
  expect(kept).toEqual({ clicks: 4, drags: 0, keys: 3 });
  await browser.click('Delete saved search Sky images');
});

test('eight items are moved by two drags and one key; by keys alone in eleven', async () => {
  const before = await treeOf(root);
  await session.go('/library?folder=images/planets&sort=name');
  await browser.button('Add all to tray');
  await browser.see(By.css('.place .picture'), 'the sheet');
  const dragged = await counted(async () => {
    const places = await browser.driver.findElements(By.css('.place'));
    const sheet = await (await browser.see(By.css('.scroller'), 'the sheet')).getRect();
    const last = await places[7]!.getRect();
    await browser.driver
      .actions({ async: true })
      .move({ x: Math.round(sheet.x + 6), y: Math.round(sheet.y + 6), origin: Origin.VIEWPORT })
      .press()
      .move({
        x: Math.round(last.x + 20),
        y: Math.round(last.y + 30),
        origin: Origin.VIEWPORT,
        duration: 300,
      })
      .release()
      .perform();
    await browser.text('in the tray');
    const gathered = await browser.see(By.css('.picture.gathered'), 'what is gathered');
    await browser.drag(gathered, await browser.see(By.css('a[data-folder="media"]'), 'the folder media'));
    await browser.text('to “media”');
    await browser.press(Key.ENTER);
    await browser.text('Done. Move');
  });
  expect(dragged).toEqual({ clicks: 0, drags: 2, keys: 1 });
  await session.alone();
  await browser.click('Undo');
  await session.applyPlan('Undo');
  expect(await treeOf(root)).toEqual(before);
  await browser.click('Empty tray');

  await session.go('/library?folder=images/planets&sort=name');
  const first = await browser.see(By.css('.place .picture'), 'the first');
  await browser.driver.executeScript('arguments[0].focus()', first);
  const byKeys = await counted(async () => {
    await browser.press(' ');
    await browser.text('1 item in the tray');
    for (let more = 0; more < 7; more++) await browser.hold(Key.SHIFT, Key.ARROW_RIGHT);
    await browser.text('8 items in the tray');
    await browser.press('m');
    await browser.field('To folder');
    await browser.driver.wait(
      () =>
        browser.driver.executeScript<boolean>(
          "return document.activeElement?.closest('.el-dialog') !== null && document.activeElement.matches('input')",
        ),
      10_000,
      'the field has the focus',
    );
    await browser.press('media', Key.ENTER);
    await browser.text('to “media”');
    await browser.press(Key.ENTER);
    await browser.text('Done. Move');
  });
  expect(byKeys).toEqual({ clicks: 0, drags: 0, keys: 11 });
  await session.alone();
  await browser.click('Undo');
  await session.applyPlan('Undo');
  expect(await treeOf(root)).toEqual(before);
});
