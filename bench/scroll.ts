import { Browser, By } from '../e2e/browser.ts';

/** What a page saw while it scrolled. */
interface Seen {
  frames: number;
  most: number;
  longest: number;
  seconds: number;
  /** Tasks over 100 ms, and when in the run the longest was, in seconds. */
  over: number;
  when: number;
}

/**
 * The contact sheet in a real browser: from end to end by three screens a frame, then by leaps to anywhere; and everything
 * gathered. Counted are the cards that the page holds at most, and the longest task of its thread.
 */
export async function benchScrolling(
  say: (text: string) => void,
  address: string,
  size: number,
): Promise<void> {
  const browser = await Browser.start();
  try {
    await browser.driver.manage().setTimeouts({ script: 300_000 });
    await browser.open(`${address}/library?view=sheet&sort=name`);
    await browser.see(By.css('.place .name'), 'the first items');
    const tell = (what: string, seen: Seen) =>
      say(
        `Sheet of ${size}, ${what}: ${seen.frames} frames in ${seen.seconds.toFixed(0)} s, at most ${seen.most} cards in the page, longest task ${seen.longest.toFixed(0)} ms (at ${seen.when.toFixed(1)} s), ${seen.over} over 100 ms.`,
      );
    tell('end to end', await browser.driver.executeAsyncScript<Seen>(SCROLL, 'through'));
    tell('leaping about', await browser.driver.executeAsyncScript<Seen>(SCROLL, 'leaps'));
    await browser.driver.executeScript("document.querySelector('.scroller').scrollTop = 0");
    await browser.click('Gather all');
    tell('all gathered, end to end', await browser.driver.executeAsyncScript<Seen>(SCROLL, 'through'));
  } finally {
    await browser.stop();
  }
}

const SCROLL = `
  const [how, done] = arguments;
  const area = document.querySelector('.scroller');
  const seen = { frames: 0, most: 0, longest: 0, seconds: 0, over: 0, when: 0 };
  const watch = new PerformanceObserver((list) => {
    for (const entry of list.getEntries()) {
      if (entry.duration > 100) seen.over++;
      if (entry.duration > seen.longest) seen.when = (entry.startTime - start) / 1000;
      seen.longest = Math.max(seen.longest, entry.duration);
    }
  });
  watch.observe({ type: 'longtask' });
  const start = performance.now();
  let at = 0;
  const end = area.scrollHeight - area.clientHeight;
  const step = () => {
    seen.frames++;
    seen.most = Math.max(seen.most, document.querySelectorAll('.place').length);
    at += how === 'through' ? 3 * area.clientHeight : 1;
    const over = how === 'through' ? at > end + 3 * area.clientHeight : at > 200;
    if (over) {
      setTimeout(() => {
        watch.disconnect();
        seen.seconds = (performance.now() - start) / 1000;
        done(seen);
      }, 500);
      return;
    }
    area.scrollTop = how === 'through' ? at : ((at * 7919) % 200) / 200 * end;
    requestAnimationFrame(step);
  };
  requestAnimationFrame(step);
`;
