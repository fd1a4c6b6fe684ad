import { cleanTag } from '../../core/describe/record.ts';
import { EXAMPLES_AT_ONCE, KEYS_AT_ONCE, type Label } from '../../core/tagging/protocol.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import type { SeenImage, TaggedImage } from '../db/suggested-tags.ts';
import { Fault } from '../fault.ts';
import type { Chosen } from '../services/chosen.ts';
import type { Tagger } from '../services/tagger.ts';
import { breathe } from '../workers/breathe.ts';
import type { RunningJob } from '../workers/jobs.ts';

/** Labels of one image that are kept, the surest of them; a service may say any number. */
const MOST_LABELS = 50;
/** Tagged images from which a service learns, those that were changed last: each of them has to be sent once. */
const MOST_EXAMPLES = 3000;
/** Images on their way to the service at one time: while it looks at one, the next is made ready. */
const SENT_AT_ONCE = 4;
/** Letters of a tag. */
const LONGEST_TAG = 80;
/** Control characters, and those that turn the direction of what stands beside them. */
const UNREADABLE = /[\p{Cc}\u202A-\u202E\u2066-\u2069]/u;

type Of = Pick<
  OpenedSite,
  'analyser' | 'db' | 'jobs' | 'now' | 'pool' | 'reader' | 'serviceSettings' | 'suggestedTags'
>;

/**
 * Asks the tagging service what is on images: each is sent once, without metadata, at most as many as may be in a month; what people have
 * tagged is told to a service that learns. What is to be looked at is kept, so that it goes on after a restart.
 */
export class Tagging {
  /** Why the last run ended, where it did not come to its end. */
  fault: string | null = null;
  /** How the service called itself last. */
  name: string | null = null;
  private running: Promise<void> | undefined;
  /** More was asked for while a run was going on. */
  private more = false;

  constructor(
    private readonly site: Of,
    private readonly taggers: Chosen<Tagger>,
  ) {}

  /** @throws Fault 'not-found' when no service is set up */
  get tagger(): Tagger {
    const { current } = this.taggers;
    if (current) return current;
    throw new Fault(
      'not-found',
      'No tagging service is set up here.',
      'A steward can enter its address under “Suggested tags”.',
    );
  }

  get isSet(): boolean {
    return this.taggers.current !== undefined;
  }

  get isRunning(): boolean {
    return this.running !== undefined;
  }

  /** Resolves when nothing is being asked. */
  get settled(): Promise<void> {
    return this.running ?? Promise.resolve();
  }

  /** Images that were sent in this month, and may be. Null: any number. */
  use(): { sent: number; limit: number | null; left: number | null } {
    const sent = this.site.suggestedTags.sent(this.tagger.address, this.month);
    const limit = this.site.serviceSettings.limit('tagging');
    return { sent, limit, left: limit === null ? null : Math.max(0, limit - sent) };
  }

  /** What the service said of images; those that it has not seen are missing. */
  seen(contents: readonly string[]): Promise<Map<string, SeenImage>> {
    return this.site.suggestedTags.seen(this.tagger.address, contents);
  }

  /** How many images are sent when some are asked about: those, and the tagged ones that the service learns from. */
  async toSend(contents: readonly string[]): Promise<number> {
    const { reader, suggestedTags } = this.site;
    const examples = (await suggestedTags.tagged(reader, MOST_EXAMPLES)).map(({ sha256 }) => sha256);
    const all = [...new Set([...contents, ...examples])];
    return all.length - (await suggestedTags.looked(this.tagger.address, all)).size;
  }

  /** Has images looked at, as a visible job. @throws Fault 'not-found' when no service is set up */
  async ask(contents: readonly string[]): Promise<void> {
    this.tagger satisfies Tagger;
    await this.site.suggestedTags.want(contents);
    this.more = true;
    this.goOn();
  }

  /** Goes on with what waits, after a restart too. */
  goOn(): void {
    if (this.running || !this.isSet || this.site.suggestedTags.waiting === 0) return;
    this.fault = null;
    this.more = false;
    this.running = this.site.jobs
      .run('tagging', 'Suggesting tags', (job) => this.run(job))
      .catch((error: unknown) => {
        // It stands in the job, and where suggestions are looked at.
        this.fault =
          error instanceof Fault
            ? `${error.message} ${error.remedy}`.trim()
            : 'It was stopped before its end.';
      })
      .finally(() => {
        this.running = undefined;
        if (this.more) this.goOn();
      });
  }

  /** Nothing that waits is asked about any more. */
  dropWaiting(): Promise<void> {
    return this.site.suggestedTags.wantNoMore('any');
  }

  private async run(job: RunningJob): Promise<void> {
    const { db, reader, suggestedTags } = this.site;
    const { tagger } = this;
    const facts = await tagger.facts(job.signal);
    this.name = facts.name;
    const wanted = await suggestedTags.wanted(reader);
    const examples = facts.learns ? await suggestedTags.tagged(reader, MOST_EXAMPLES) : [];
    const tagged = examples.map(({ sha256 }) => sha256);
    const known = await suggestedTags.seen(tagger.address, [...new Set([...wanted, ...tagged])]);
    const news = new Set(wanted.filter((one) => !known.has(one)));
    // What it learns from comes first; where not all can be sent, it takes half of what may.
    const lessons = tagged.filter((one) => !known.has(one));
    const { left } = this.use();
    const most = left === null ? lessons.length : Math.max(Math.floor(left / 2), left - news.size);
    const first = lessons.slice(0, most);
    const total = new Set([...first, ...news]).size + wanted.length - news.size;
    let done = 0;
    const step = (by: number) => job.progress((done += by), total, 'images');
    step(0);
    await this.sendAll(tagger, first, job.signal, (sha256) => {
      news.delete(sha256);
      step(1);
    });
    const lost = await this.teach(tagger, examples, job.signal);
    if (lost.size > 0) {
      await this.sendAll(tagger, [...lost], job.signal, () => undefined);
      await this.teach(tagger, examples, job.signal);
    }
    const sentNow = new Set<string>();
    await this.sendAll(tagger, [...news], job.signal, (sha256) => {
      sentNow.add(sha256);
      step(1);
    });
    // The others are asked about anew, as people have tagged meanwhile.
    const again = wanted.filter((one) => !sentNow.has(one) && !news.has(one));
    for (let at = 0; at < again.length; at += KEYS_AT_ONCE) {
      const keys = again
        .slice(at, at + KEYS_AT_ONCE)
        .filter((key) => (known.get(key)?.fault ?? null) === null);
      if (keys.length === 0) continue;
      const { images, unknown } = await tagger.labels(keys, job.signal);
      db.write(() => {
        for (const { key, labels } of images)
          if (keys.includes(key))
            suggestedTags.save(tagger.address, key, { labels: kept(labels), fault: null });
        for (const key of unknown) if (keys.includes(key)) suggestedTags.forget(tagger.address, key);
      });
      await this.sendAll(
        tagger,
        unknown.filter((one) => keys.includes(one)),
        job.signal,
        () => undefined,
      );
      step(keys.length);
    }
    const looked = await suggestedTags.looked(tagger.address, wanted);
    await suggestedTags.wantNoMore([...looked]);
    if (looked.size < wanted.length)
      this.fault = `No more images may be sent this month: ${(wanted.length - looked.size).toLocaleString('en')} wait.`;
  }

  /** Sends images, several at a time, until no more may be sent this month. @param sent told of each */
  private async sendAll(
    tagger: Tagger,
    contents: readonly string[],
    signal: AbortSignal,
    sent: (sha256: string) => void,
  ): Promise<void> {
    const rest = contents.values();
    let goesOn = true;
    const lane = async () => {
      try {
        for (const sha256 of rest) {
          if (!goesOn || !(await this.send(tagger, sha256, signal))) break;
          sent(sha256);
        }
      } finally {
        // What ends one ends all.
        goesOn = false;
      }
    };
    const ended = await Promise.allSettled(Array.from({ length: SENT_AT_ONCE }, lane));
    for (const one of ended) if (one.status === 'rejected') throw one.reason;
  }

  /** Sends one image, and keeps what is said of it. @returns false: no more may be sent this month */
  private async send(tagger: Tagger, sha256: string, signal: AbortSignal): Promise<boolean> {
    signal.throwIfAborted();
    const { analyser, db, pool, suggestedTags } = this.site;
    if (this.use().left === 0) return false;
    // What it waited for is done at once: a run may end before the others.
    const save = (seen: SeenImage) =>
      db.write(() => {
        suggestedTags.save(tagger.address, sha256, seen);
        suggestedTags.done(sha256);
      });
    let bytes: Uint8Array;
    try {
      bytes = await pool.run('to-send', { file: await analyser.file(sha256, 1280) });
    } catch (error) {
      if (!(error instanceof Fault)) throw error;
      save({ labels: [], fault: 'It can’t be opened.' });
      return true;
    }
    // Another may have been sent meanwhile. Counted before: what was sent may be charged for, whatever comes of it.
    if (this.use().left === 0) return false;
    db.write(() => suggestedTags.countSent(tagger.address, this.month));
    try {
      save({ labels: kept(await tagger.send(sha256, bytes, signal)), fault: null });
    } catch (error) {
      // One image that it can't read; the others go on.
      if (!(error instanceof Fault) || error.code !== 'bad-request') throw error;
      save({ labels: [], fault: error.message });
    }
    return true;
  }

  /** Tells what people have tagged since, and what they have taken away. @returns images that it does not have any more */
  private async teach(
    tagger: Tagger,
    examples: readonly TaggedImage[],
    signal: AbortSignal,
  ): Promise<Set<string>> {
    const { db, reader, suggestedTags } = this.site;
    const told = await suggestedTags.taught(
      reader,
      tagger.address,
      examples.map(({ sha256 }) => sha256),
    );
    const now = new Map(examples.map((one) => [one.sha256, one.tags]));
    const news: TaggedImage[] = [];
    for (const [sha256, before] of told) {
      const tags = (now.get(sha256) ?? []).slice(0, MOST_LABELS);
      if (JSON.stringify(tags) !== before) news.push({ sha256, tags });
      await breathe();
    }
    const lost = new Set<string>();
    for (let at = 0; at < news.length; at += EXAMPLES_AT_ONCE) {
      const some = news.slice(at, at + EXAMPLES_AT_ONCE);
      const unknown = await tagger.learn(
        some.map(({ sha256, tags }) => ({ key: sha256, labels: tags })),
        signal,
      );
      const gone = new Set(unknown);
      db.write(() => {
        suggestedTags.setTaught(
          tagger.address,
          some.filter(({ sha256 }) => !gone.has(sha256)),
        );
        for (const { sha256 } of some) if (gone.has(sha256)) suggestedTags.forget(tagger.address, sha256);
      });
      for (const { sha256 } of some) if (gone.has(sha256)) lost.add(sha256);
    }
    return lost;
  }

  /** As 2027-03. */
  private get month(): string {
    return this.site.now().slice(0, 7);
  }
}

/** The labels that can be tags, each once, the surest first. */
function kept(labels: readonly Label[]): Label[] {
  const best = new Map<string, Label>();
  for (const one of labels) {
    const label = cleanTag(one.label);
    if (label === '' || one.label.length > LONGEST_TAG || UNREADABLE.test(label)) continue;
    const there = best.get(label.toLowerCase());
    if (!there || there.confidence < one.confidence) best.set(label.toLowerCase(), { ...one, label });
  }
  return [...best.values()].sort((one, other) => other.confidence - one.confidence).slice(0, MOST_LABELS);
}
