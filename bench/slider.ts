import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pino from 'pino';
import { Key } from 'selenium-webdriver';
import { Browser, By } from '../e2e/browser.ts';
import { createApp } from '../server/http/app.ts';
import { openSite } from '../server/app/open-site.ts';
import { twelveMegapixels } from './twelve.ts';

/** Milliseconds: between frames, of drawing in the worker, and from asking it until its image is there. */
interface Seen {
  frames: number[];
  drawing: number[];
  there: number[];
}
const STEPS = 40;

/**
 * How well the bench follows a slider on an image of twelve megapixels, in a real browser: an arrow key held on each of them. The bare
 * baseline is the same window while nothing moves.
 */
export async function benchSlider(say: (text: string) => void): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'iconomos-bench-'));
  const root = join(folder, 'site');
  mkdirSync(root);
  writeFileSync(join(root, 'index.html'), '<!doctype html><title>A</title><img src="IMG_1000.jpg" alt="">');
  await twelveMegapixels(root, 1);
  const site = await openSite({ site: root, people: [{ name: 'A', role: 'steward' }] });
  await site.scanner.scan(true);
  const server = createServer();
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const host = `127.0.0.1:${(server.address() as AddressInfo).port}`;
  const log = pino({ level: 'silent' });
  const app = createApp({ demo: true, site, log, servedAt: 'http://127.0.0.1:1', hosts: [host] });
  const answer = app.callback();
  server.on('request', (request, response) => void answer(request, response));
  const browser = await Browser.start();
  try {
    await browser.command('Page.addScriptToEvaluateOnNewDocument', { source: WATCH });
    const id = site.db.value<number>("select id from item where path = 'IMG_1000.jpg'")!;
    await browser.open(`http://${host}/library/edit/${id}`);
    await browser.see(By.css('[role=slider]'), 'a slider');
    const sliders = await browser.driver.findElements(By.css('[role=slider]'));
    // What is drawn first is no step of a slider.
    await browser.driver.sleep(2000);
    const during = async (work: () => Promise<void>): Promise<Seen> => {
      await browser.driver.executeScript('for (const list of Object.values(seen)) list.length = 0');
      await work();
      return browser.driver.executeScript<Seen>('return seen');
    };
    const idle = await during(() => browser.driver.sleep(1000));
    say(
      `Sliders of the bench, ${STEPS} steps each on 4,000 × 3,000 pixels (a frame while nothing moves: ${told(idle.frames)}):`,
    );
    for (const slider of sliders) {
      const name = await slider.getAttribute('aria-label');
      await browser.driver.executeScript('arguments[0].focus()', slider);
      const seen = await during(async () => {
        for (let step = 0; step < STEPS; step++) {
          await browser.driver.actions().sendKeys(Key.ARROW_RIGHT).perform();
          await browser.driver.sleep(16);
        }
      });
      const ratio = middle(seen.frames) / middle(idle.frames);
      say(
        `  ${name}: ${seen.there.length} images, a frame ${ratio.toFixed(2)} of the idle one, ${told(seen.frames)}; drawing ${told(seen.drawing)}; there after ${told(seen.there)}`,
      );
      // Really encoded after a moment: not beside the next slider.
      await browser.driver.sleep(3000);
    }
  } finally {
    await browser.stop();
    server.close();
    server.closeAllConnections();
    await site.close();
    rmSync(folder, { recursive: true });
  }
}

const at = (values: number[], part: number) =>
  values.toSorted((one, other) => one - other)[Math.floor(part * (values.length - 1))] ?? Number.NaN;
const middle = (values: number[]) => at(values, 0.5);
const told = (values: number[]) =>
  `${middle(values).toFixed(1)} ms in the middle, ${at(values, 0.95).toFixed(1)} ms at the 95th percentile`;

const WATCH = `
  window.seen = { frames: [], drawing: [], there: [] };
  let last = performance.now();
  const frame = (now) => {
    seen.frames.push(now - last);
    last = now;
    requestAnimationFrame(frame);
  };
  requestAnimationFrame(frame);
  window.Worker = class extends Worker {
    constructor(...given) {
      super(...given);
      this.addEventListener('message', ({ data }) => {
        if (!('took' in data)) return;
        seen.drawing.push(data.took);
        seen.there.push(performance.now() - this.asked);
      });
    }
    postMessage(...given) {
      this.asked = performance.now();
      super.postMessage(...given);
    }
  };
`;
