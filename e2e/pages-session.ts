import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { expect } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import { By } from './browser.ts';
import { Session } from './session.ts';

/** Pages as a person works on them: looked at, with what is drawn of them. */
export class PagesSession extends Session {
  /** A file of the site. */
  text(path: string): Promise<string> {
    return readFile(join(this.root, path), 'utf8');
  }

  async openPage(path: string): Promise<void> {
    await this.go(`/pages?page=${encodeURIComponent(path)}`);
    await this.browser.text('Open the page as served');
  }

  /** Reads something in the page that is drawn: it stands in a frame of another origin. */
  async inPage<Answer>(script: string): Promise<Answer> {
    const { driver } = this.browser;
    await driver.switchTo().frame(await this.browser.see(By.css('iframe'), 'the drawn page'));
    try {
      return await driver.executeScript<Answer>(script);
    } finally {
      await driver.switchTo().defaultContent();
    }
  }

  /** Clicks into the drawn page: on the top edge of an element, or into it. */
  async clickInPage(selector: string, where: 'edge' | 'middle'): Promise<void> {
    await this.browser.driver.wait(
      () => this.inPage<boolean>(`return document.querySelector(${JSON.stringify(selector)}) !== null`),
      20_000,
      `the drawn page has ${selector}`,
    );
    await this.inPage(
      `document.querySelector(${JSON.stringify(selector)}).scrollIntoView({ block: 'center' })`,
    );
    await this.browser.driver.sleep(400);
    const rect = await this.inPage<{ x: number; y: number; width: number; height: number }>(
      `const r = document.querySelector(${JSON.stringify(selector)}).getBoundingClientRect(); return { x: r.x, y: r.y, width: r.width, height: r.height }`,
    );
    const { box, scale } = await this.browser.driver.executeScript<{
      box: { x: number; y: number };
      scale: number;
    }>(
      "const frame = document.querySelector('iframe'); const r = frame.getBoundingClientRect(); return { box: { x: r.x, y: r.y }, scale: r.width / frame.offsetWidth }",
    );
    await this.browser.driver
      .actions()
      .move({
        x: Math.round(box.x + scale * (rect.x + rect.width / 2)),
        y: Math.round(box.y + scale * (rect.y + (where === 'edge' ? 2 : rect.height / 2))),
      })
      .click()
      .perform();
  }

  async choose(name: string): Promise<void> {
    await this.browser.text('The item');
    await this.browser.fill('Words to find', name);
    const at = By.xpath(`//div[@role='dialog']//li/button[contains(., '${name}')]`);
    await (await this.browser.see(at, `the item “${name}”`)).click();
  }

  /** Clicks a button once what it would do has been computed. */
  async ready(name: string): Promise<void> {
    const at = By.xpath(`//button[normalize-space(.)='${name}' and not(@disabled)]`);
    await (await this.browser.see(at, `“${name}”, ready`)).click();
  }

  async undone(before: Record<string, string>): Promise<void> {
    await this.browser.click('Undo');
    await this.applyPlan('Undo', 'Undo:');
    expect(await treeOf(this.root)).toEqual(before);
  }
}
