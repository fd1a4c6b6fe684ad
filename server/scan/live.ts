import type { IncomingMessage } from 'node:http';
import robotsParser from 'robots-parser';
import type { LiveView } from '../../api/pages.ts';
import { encodePath, type SitePath } from '../../core/address/path.ts';
import type { Reference } from '../../core/reference/model.ts';
import { decodePathname } from '../../core/reference/resolve.ts';
import { Fault } from '../fault.ts';
import { allowedAddress, ask, readUrl, type FetchSetting } from '../services/outgoing.ts';
import type { LivePage } from '../db/live.ts';
import { inTime } from '../workers/pool.ts';
import type { Site } from '../app/site.ts';

/** How far a live site is read. */
export interface LiveLimits {
  /** Pages at most. */
  pages: number;
  /** Bytes of one answer at most; what is longer is cut off. */
  bytes: number;
  /** Milliseconds between two requests at least, when the site does not ask for more. */
  pause: number;
  redirects: number;
}

export const LIVE_LIMITS: LiveLimits = { pages: 2000, bytes: 5e6, pause: 400, redirects: 5 };
/** No site may hold the reader longer between two requests, whatever its robots.txt says; milliseconds. */
const LONGEST_PAUSE = 30_000;
/** Milliseconds of work that reading one of its texts may take. */
const PARSE_LIMIT = 20_000;
const AGENT = 'Iconomos';

interface Answer {
  /** Where it came from, after redirects. */
  url: URL;
  status: number;
  type: string;
  body: Buffer;
}

/**
 * Reads a site as visitors see it: its sitemap and the links within it, by HTTP. robots.txt is respected (RFC 9309), one
 * request goes out at a time, with a pause between two, and no more than the limits say. What its pages show of the
 * library counts as placed; it is read only, as those pages need not lie in the folder.
 */
export class LiveReader {
  constructor(
    private readonly site: Pick<Site, 'index' | 'scanner' | 'items' | 'live' | 'pool' | 'jobs' | 'now'>,
    private readonly limits: LiveLimits = LIVE_LIMITS,
  ) {}

  /**
   * Reads the site at an address, as a job that can be stopped. An earlier reading of it stays until this one is done.
   * @throws Fault when the address is none, is not allowed, or its start page does not answer
   */
  async read(address: string, setting: FetchSetting): Promise<LiveView> {
    const start = readUrl(address);
    return this.site.jobs.run('live', `Reading ${start.host}`, async ({ progress, signal }) => {
      const reading = new Reading(this.site, setting, this.limits, signal);
      const pages = await reading.whole(start, progress);
      this.site.live.replace(reading.origin, pages, this.site.now());
      await this.site.scanner.alone(() => this.site.scanner.refreshUse());
      return this.site.live.view();
    });
  }
}

class Reading {
  origin = '';
  private readonly pages = new Map<string, LivePage>();
  private readonly seen = new Set<string>();
  private readonly queue: string[] = [];
  private readonly styles = new Set<string>();
  private robots = robotsParser('', '');
  private pause: number;
  private last = 0;

  constructor(
    private readonly site: Pick<Site, 'index' | 'items' | 'pool'>,
    private readonly setting: FetchSetting,
    private readonly limits: LiveLimits,
    private readonly signal: AbortSignal,
  ) {
    this.pause = limits.pause;
  }

  async whole(
    start: URL,
    progress: (done: number, total: number, what: string) => void,
  ): Promise<LivePage[]> {
    this.origin = start.origin;
    // A start page may lead to the site's own host name: then that is the site.
    const first = await this.get(start, true);
    if (first.status >= 400)
      throw new Fault('bad-request', `${start.host} answers ${first.status}.`, 'Check the address.');
    this.origin = first.url.origin;
    await this.readRobots();
    this.add(first.url.href);
    await this.readSitemaps();
    for (let next = this.queue.shift(); next !== undefined; next = this.queue.shift()) {
      if (this.pages.size >= this.limits.pages) break;
      progress(
        this.pages.size,
        Math.min(this.limits.pages, this.pages.size + this.queue.length + 1),
        'pages read',
      );
      const answer = next === first.url.href ? first : await this.get(new URL(next), false);
      await this.take(next, answer);
    }
    for (const style of [...this.styles].slice(0, 200)) await this.readStyle(style);
    return [...this.pages.values()];
  }

  private allowed(url: string): boolean {
    return this.robots.isAllowed(url, AGENT) !== false;
  }

  /** Takes an address of the site into the queue, once, without its fragment. */
  private add(href: string): void {
    if (!URL.canParse(href)) return;
    const url = new URL(href);
    url.hash = '';
    if (url.origin !== this.origin || this.seen.has(url.href)) return;
    // Answers to questions have no end: a calendar, a search.
    if (url.search.length > 200 || this.seen.size > 20 * this.limits.pages) return;
    this.seen.add(url.href);
    if (this.allowed(url.href)) this.queue.push(url.href);
  }

  private async readRobots(): Promise<void> {
    const url = new URL('/robots.txt', this.origin);
    const answer = await this.get(url, false);
    if (answer.status >= 500)
      throw new Fault(
        'bad-request',
        `${url.host} answers ${answer.status} when asked what may be read.`,
        'Nothing is read then (RFC 9309). Try again later.',
      );
    if (answer.status !== 200) return;
    this.robots = robotsParser(url.href, answer.body.toString('utf8'));
    const wanted = (this.robots.getCrawlDelay(AGENT) ?? 0) * 1000;
    this.pause = Math.min(LONGEST_PAUSE, Math.max(this.pause, wanted));
  }

  /** What a text from elsewhere refers to. A worker reads it, in bounded time; one that takes too long says nothing. */
  private async parse(language: 'html' | 'xhtml' | 'css' | 'xml', bytes: Uint8Array) {
    const read = await inTime(() => this.site.pool.run('parse', { language, bytes }, { limit: PARSE_LIMIT }));
    return read ?? { title: '', references: [] };
  }

  private async readSitemaps(): Promise<void> {
    const named = this.robots.getSitemaps();
    const maps = named.length > 0 ? named : [new URL('/sitemap.xml', this.origin).href];
    const read = new Set<string>();
    for (let map = maps.shift(); map !== undefined && read.size < 50; map = maps.shift()) {
      if (read.has(map) || !URL.canParse(map) || new URL(map).origin !== this.origin) continue;
      read.add(map);
      const answer = await this.get(new URL(map), false);
      if (answer.status !== 200) continue;
      for (const { url, place } of (await this.parse('xml', answer.body)).references) {
        if (place !== 'xml loc') continue;
        if (/\.xml(?:[?#]|$)/i.test(url)) maps.push(url);
        else this.add(url);
      }
    }
  }

  /** Takes what one page says. */
  private async take(asked: string, { url, status, type, body }: Answer): Promise<void> {
    if (url.origin !== this.origin) return;
    this.seen.add(url.href);
    const page: LivePage = { url: asked, title: '', status, placements: [] };
    if (status >= 400 || !/html/i.test(type)) {
      // A link may lead to a file that is no page: only pages that fail are told.
      if (status >= 400) this.pages.set(asked, page);
      return;
    }
    const reading = await this.parse(/xhtml/i.test(type) ? 'xhtml' : 'html', body);
    page.title = reading.title;
    this.pages.set(asked, page);
    for (const one of reading.references) {
      const target = this.targetOf(one, url);
      if (!target) continue;
      const item = this.itemAt(target);
      if (item !== undefined)
        page.placements.push({
          path: item,
          address: target.href,
          place: one.place,
          alt: one.alt ?? null,
          hasAlt: one.alt !== undefined && one.alt !== null,
        });
      else if (one.place === 'a href' || one.place === 'area href' || one.place === 'iframe src')
        this.add(target.href);
      else if (one.place === 'link href' && /\.css(?:[?#]|$)/i.test(target.href))
        this.styles.add(target.href);
    }
  }

  private async readStyle(href: string): Promise<void> {
    const url = new URL(href);
    if (url.origin !== this.origin || !this.allowed(href)) return;
    const answer = await this.get(url, false);
    if (answer.status !== 200) return;
    const page: LivePage = { url: href, title: '', status: 200, placements: [] };
    for (const one of (await this.parse('css', answer.body)).references) {
      const target = this.targetOf(one, answer.url);
      const item = target && this.itemAt(target);
      if (item !== undefined)
        page.placements.push({
          path: item,
          address: target!.href,
          place: one.place,
          alt: null,
          hasAlt: false,
        });
    }
    if (page.placements.length > 0) this.pages.set(href, page);
  }

  private targetOf(one: Pick<Reference, 'url' | 'base'>, page: URL): URL | undefined {
    const base = one.base !== undefined && URL.canParse(one.base, page) ? new URL(one.base, page) : page;
    if (!URL.canParse(one.url, base)) return undefined;
    const url = new URL(one.url, base);
    return /^https?:$/.test(url.protocol) ? url : undefined;
  }

  /** The item of the library that an address serves, by where the site is published. */
  private itemAt(url: URL): SitePath | undefined {
    const own = url.origin === this.origin;
    const target = this.site.index.map.resolve(
      own ? `/${encodePath(decodePathname(url.pathname.slice(1)))}` : url.href,
      'index.html',
    );
    return target.to === 'file' && this.site.items.atPath(target.path) ? target.path : undefined;
  }

  /** One request, after its pause; redirects within the site are followed. */
  private async get(url: URL, first: boolean): Promise<Answer> {
    let at = url;
    for (let hop = 0; ; hop++) {
      await this.rest();
      const answer = await ask(at, await allowedAddress(at, this.setting), this.signal);
      const status = answer.statusCode ?? 0;
      const to = answer.headers.location;
      if (status >= 300 && status < 400 && to && URL.canParse(to, at) && hop < this.limits.redirects) {
        answer.destroy();
        const next = readUrl(new URL(to, at).href);
        // Elsewhere is another site; only the start page may move the reading there.
        if (!first && next.origin !== this.origin)
          return { url: next, status, type: '', body: Buffer.alloc(0) };
        at = next;
        continue;
      }
      return {
        url: at,
        status,
        type: answer.headers['content-type'] ?? '',
        body: await bodyOf(answer, this.limits.bytes),
      };
    }
  }

  private async rest(): Promise<void> {
    this.signal.throwIfAborted();
    const wait = this.last + this.pause - performance.now();
    if (wait > 0)
      await new Promise<void>((go, stop) => {
        const aborted = () => {
          clearTimeout(timer);
          stop(this.signal.reason as Error);
        };
        const timer = setTimeout(() => {
          this.signal.removeEventListener('abort', aborted);
          go();
        }, wait);
        this.signal.addEventListener('abort', aborted, { once: true });
      });
    this.last = performance.now();
  }
}

/** The first bytes of an answer; media are not read at all. */
async function bodyOf(answer: IncomingMessage, most: number): Promise<Buffer> {
  const type = answer.headers['content-type'] ?? '';
  if (/^(?:image|video|audio|font)\/|pdf|zip|octet-stream/i.test(type) && !/svg/i.test(type)) {
    answer.destroy();
    return Buffer.alloc(0);
  }
  const chunks: Buffer[] = [];
  let bytes = 0;
  for await (const chunk of answer) {
    chunks.push(chunk as Buffer);
    bytes += (chunk as Buffer).length;
    if (bytes >= most) break;
  }
  answer.destroy();
  return Buffer.concat(chunks);
}
