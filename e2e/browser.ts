import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Builder, By, Key, type WebDriver, type WebElement } from 'selenium-webdriver';
import { Options, ServiceBuilder } from 'selenium-webdriver/chrome.js';
import { writeFile } from 'node:fs/promises';

/** Milliseconds between two looks at the screen. */
/** Whether the window knows the site; of other pages and of the door: whether anything is there. */
const OPENED = `const said = document.body?.innerText.trim() ?? '';
  return document.readyState === 'complete' && said !== '' && !said.includes('Opening …');`;
const POLL = 50;
/** What is wrong for a moment only: an element was replaced, or lies behind what opens or closes. */
const PASSING = new Set([
  'StaleElementReferenceError',
  'ElementClickInterceptedError',
  'ElementNotInteractableError',
]);

/** A real Chromium, driven as a person would: by what stands on the screen. */
export class Browser {
  private constructor(readonly driver: WebDriver) {}

  static async start(downloads?: string): Promise<Browser> {
    const options = new Options();
    options.setChromeBinaryPath('/usr/bin/chromium');
    options.addArguments(
      '--headless=new',
      '--no-sandbox',
      '--disable-gpu',
      '--disable-dev-shm-usage',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      '--force-color-profile=srgb',
      '--lang=en-GB',
      `--user-data-dir=${mkdtempSync(join(tmpdir(), 'iconomos-chromium-'))}`,
    );
    if (downloads)
      options.setUserPreferences({
        'download.default_directory': downloads,
        'download.prompt_for_download': false,
      });
    const driver = await new Builder()
      .forBrowser('chrome')
      .setChromeOptions(options)
      .setChromeService(new ServiceBuilder('/usr/bin/chromedriver'))
      .build();
    const browser = new Browser(driver);
    await browser.size(1280, 800);
    return browser;
  }

  async size(width: number, height: number): Promise<void> {
    await this.command('Emulation.setDeviceMetricsOverride', {
      width,
      height,
      deviceScaleFactor: 1,
      mobile: false,
    });
  }

  async command(name: string, values: object): Promise<void> {
    await (
      this.driver as unknown as { sendDevToolsCommand(name: string, values: object): Promise<void> }
    ).sendDevToolsCommand(name, values);
  }

  /** Sites that this browser has been to: there the tour of a first visit is over. */
  private readonly visited = new Set<string>();

  /** Forgets what this window has kept of the site it is at, but for the tour, which is over. */
  async forget(): Promise<void> {
    await this.driver.executeScript(
      "sessionStorage.clear(); localStorage.clear(); localStorage.setItem('iconomos.tour-seen', 'true')",
    );
  }

  /** @param first as a first visit, with the tour */
  async open(address: string, first = false): Promise<void> {
    const { origin, protocol } = new URL(address);
    if (protocol.startsWith('http') && !first && !this.visited.has(origin)) {
      await this.driver.get(`${origin}/api/site`);
      await this.forget();
    }
    this.visited.add(origin);
    await this.driver.get(address);
    // As a person does, it waits until the window is there; where it does not come, what comes next says so.
    await this.driver
      .wait(() => this.driver.executeScript<boolean>(OPENED), 3000, 'still opening', POLL)
      .catch(() => undefined);
  }

  /** The first visible element that fits, waiting up to a minute; a failure says what stood there instead. */
  see(locator: By, what: string, fits?: RegExp): Promise<WebElement> {
    const { using, value } = locator as unknown as { using: string; value: string };
    return this.seeBy(
      what,
      using === 'xpath'
        ? `const all = document.evaluate(q, document, null, XPathResult.ORDERED_NODE_SNAPSHOT_TYPE, null);
           return Array.from({ length: all.snapshotLength }, (_, at) => all.snapshotItem(at));`
        : 'return [...document.querySelectorAll(q)];',
      value,
      fits,
    );
  }

  private async waitFor(what: string, look: () => Promise<WebElement | null>): Promise<WebElement> {
    try {
      return (await this.driver.wait(look, 60_000, `did not see ${what}`, POLL)) as WebElement;
    } catch (error) {
      if ((error as Error).name === 'TimeoutError')
        (error as Error).message += `, but:\n${(await this.screen()).slice(0, 3000)}`;
      throw error;
    }
  }

  /** Looks within the window itself, in one go. @param candidates a script that lists elements; `q` is the text, `says(element)` what it says */
  private seeBy(what: string, candidates: string, text: string, fits?: RegExp): Promise<WebElement> {
    return this.waitFor(what, () =>
      this.driver.executeScript<WebElement | null>(
        `const [q, fits, flags] = arguments;
         const says = (one) => one.textContent.replace(/[ \\t\\r\\n]+/g, ' ').trim();
         // Of a tick, a choice or a list, the field itself lies unseen within what is drawn.
         const drawn = (one) => one.closest('.el-checkbox, .el-radio, .el-select');
         const seen = (one) => one.tagName === 'INPUT' && drawn(one) ? seen(drawn(one)) :
           one.checkVisibility({ visibilityProperty: true, opacityProperty: true }) &&
           [...one.getClientRects()].some((box) => box.width > 0 && box.height > 0);
         const found = (() => { ${candidates} })();
         return found.find((one) => seen(one) && (!fits || new RegExp(fits, flags).test(one.innerText))) ?? null;`,
        text,
        fits?.source,
        fits?.flags,
      ),
    );
  }

  /** The innermost element with this text. A number in it is whole: “2 items” is not seen in “12 items”. */
  text(text: string): Promise<WebElement> {
    const whole = /^\d/.test(text) || /\d$/.test(text);
    return this.seeBy(
      `“${text}”`,
      `const found = [];
       const into = (one) => {
         const inner = [...one.children].filter((child) => says(child).includes(q));
         if (inner.length === 0) found.push(one);
         inner.forEach(into);
       };
       if (says(document.body).includes(q)) into(document.body);
       return found;`,
      text,
      whole ? new RegExp(`(?<![\\d,])${escaped(text)}(?!\\d)`, 'i') : undefined,
    );
  }

  /** A button or link by its visible text or its accessible name. */
  button(name: string): Promise<WebElement> {
    return this.seeBy(
      `the button “${name}”`,
      `return [...document.querySelectorAll('button, a, [role=button], [role=menuitem], .el-segmented__item')].filter(
         (one) => says(one).includes(q) || one.ariaLabel?.includes(q));`,
      name,
    );
  }

  /** A field by its label. */
  field(label: string): Promise<WebElement> {
    return this.seeBy(
      `the field “${label}”`,
      `return [...document.querySelectorAll('input:not(.el-segmented__item-input), textarea')].filter(
         (one) => one.ariaLabel?.includes(q) ||
           [...(one.labels ?? [])].some((label) => label.ariaLabel?.includes(q) || says(label).includes(q)));`,
      label,
    );
  }

  async click(name: string): Promise<void> {
    await this.retry(async () => {
      const button = await this.button(name);
      await this.still(button);
      await button.click();
    });
  }

  /** Waits until something no longer moves: a menu that opens, a list that unfolds. */
  private async still(one: WebElement): Promise<void> {
    let before = '';
    await this.driver.wait(
      async () => {
        const now = JSON.stringify(await one.getRect());
        const same = now === before;
        before = now;
        return same;
      },
      5000,
      'it never came to rest',
      POLL,
    );
  }

  /** Clicks what a locator finds, once it no longer moves. */
  async clickAt(locator: By, what: string): Promise<void> {
    await this.retry(async () => {
      const one = await this.see(locator, what);
      await this.still(one);
      await one.click();
    });
  }

  /** Clicks a button of the dialog that is open. */
  async inDialog(name: string): Promise<void> {
    const at = By.xpath(`//div[@role='dialog']//button[normalize-space(.)='${name}']`);
    await this.clickAt(at, `“${name}” in the plan`);
  }

  /** Replaces what stands in a field. */
  async fill(label: string, text: string): Promise<void> {
    await this.retry(async () => {
      await (await this.field(label)).sendKeys(Key.chord(Key.CONTROL, 'a'), Key.BACK_SPACE, text);
    });
  }

  /** Chooses from a list, by the name of the list and what stands on the choice. */
  async choose(label: string, option: string): Promise<void> {
    await this.retry(async () => {
      const field = await this.field(label);
      const list = await field.findElement(By.xpath("ancestor::div[contains(@class, 'el-select__wrapper')]"));
      await this.still(list);
      await list.click();
    });
    // A list that still opens moves away from under the pointer.
    await this.retry(async () => {
      const one = await this.option(option);
      await this.still(one);
      await one.click();
    });
  }

  /** A choice of the list that is open. */
  option(name: string): Promise<WebElement> {
    return this.see(
      By.css('[role=option]'),
      `the choice “${name}”`,
      new RegExp(`^\\s*${escaped(name)}\\s*$`),
    );
  }

  /** Drags one thing onto another with the pointer. */
  async drag(from: WebElement, to: WebElement): Promise<void> {
    await this.driver
      .actions({ async: true })
      .move({ origin: from })
      .press()
      .move({ origin: from, x: 6, y: 4 })
      .move({ origin: to, duration: 300 })
      .move({ origin: to, x: 2, y: 1, duration: 100 })
      .release()
      .perform();
  }

  /** Presses keys, wherever the focus is. */
  press(...keys: string[]): Promise<void> {
    return this.driver
      .actions()
      .sendKeys(...keys)
      .perform();
  }

  /** Presses a key while another is held. */
  hold(held: string, key: string): Promise<void> {
    return this.driver.actions().keyDown(held).sendKeys(key).keyUp(held).perform();
  }

  /** Presses Tab until what has the focus is called so. @param whole the name is all it is called */
  async tabTo(name: string, whole = false): Promise<void> {
    const met: string[] = [];
    for (let presses = 0; presses < 120; presses++) {
      const called = await this.driver.executeScript<string>(
        `const one = document.activeElement;
         const own = one.matches('a, button, summary') ? one.textContent : '';
         return (one.getAttribute('aria-label') || one.labels?.[0]?.ariaLabel || one.labels?.[0]?.textContent || own).replace(/\\s+/g, ' ').trim();`,
      );
      if (whole ? called === name : called.includes(name)) return;
      met.push(called);
      await this.press(Key.TAB);
    }
    throw new Error(`Tab never came to “${name}”, but to: ${met.join(' | ')}`);
  }

  /** Waits until something that has no text of its own holds. */
  async until(what: string, holds: () => Promise<boolean>): Promise<void> {
    await this.driver.wait(holds, 30_000, `it never came to ${what}`, POLL);
  }

  /** Does something within a frame. */
  async within(frame: By, what: string, act: () => Promise<void>): Promise<void> {
    await this.driver.switchTo().frame(await this.see(frame, what));
    try {
      await act();
    } finally {
      await this.driver.switchTo().defaultContent();
    }
  }

  async gone(text: string): Promise<void> {
    await this.driver.wait(
      async () => !(await this.driver.findElement(By.css('body')).getText()).includes(text),
      30_000,
      `“${text}” did not go away`,
      POLL,
    );
  }

  async screen(): Promise<string> {
    return this.driver.findElement(By.css('body')).getText();
  }

  async picture(file: string): Promise<void> {
    await writeFile(file, Buffer.from(await this.driver.takeScreenshot(), 'base64'));
  }

  /** Waits until no image is still loading. */
  async settled(): Promise<void> {
    await this.driver.wait(
      () =>
        this.driver.executeScript<boolean>(
          'return [...document.images].every((one) => one.complete || (one.loading === "lazy" && one.getBoundingClientRect().top > innerHeight)) && document.fonts.status === "loaded"',
        ),
      20_000,
      undefined,
      POLL,
    );
    await this.driver.sleep(250);
  }

  stop(): Promise<void> {
    return this.driver.quit();
  }

  /** Elements are replaced while lists refresh, and wait behind what is still opening: try again with the new one. */
  private async retry(act: () => Promise<void>): Promise<void> {
    for (let attempt = 0; ; attempt++) {
      try {
        return await act();
      } catch (error) {
        const name = (error as Error).name;
        if (attempt >= 5 || !PASSING.has(name)) throw error;
        await this.driver.sleep(150);
      }
    }
  }
}

export { By };

/** The text as a regular expression; a space stands for any white space. */
function escaped(text: string): string {
  return text.replace(/[\^$\\.*+?()[\]{}|/]/g, '\\$&').replaceAll(' ', '\\s+');
}
