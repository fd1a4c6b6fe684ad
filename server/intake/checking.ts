import { existsSync } from 'node:fs';
import { rm, stat } from 'node:fs/promises';
import { kindOf, mimeOf } from '../../core/address/kinds.ts';
import { joinPath } from '../../core/address/path.ts';
import { folderWithin } from '../../core/intake/arrival-names.ts';
import type { Checked } from '../../core/intake/finding.ts';
import { ruleFor } from '../../core/intake/rules.ts';
import type { ArrivalRow } from '../db/arrivals.ts';
import type { Site } from '../app/site.ts';
import type { RunningJob } from '../workers/jobs.ts';
import { withEmbedded } from '../media/embedded-preview.ts';
import { collectBlob } from '../files/collect-blob.ts';
import type { Matching } from '../upkeep/matching.ts';
import { FairQueue, onBehalf } from '../workers/fair.ts';
import { Unended } from '../workers/pool.ts';
import { HEIF } from '../media/heif.ts';
import { LIMITS } from '../limits.ts';
import { toldOf } from '../log.ts';
import { nameFor } from './arrival-names.ts';
import { prepareArrival } from './preparing.ts';
import { RuleFollowing } from './rule-following.ts';

/** At most this many look-alikes are told of. */
const ALIKE = 8;

/** Takes files that have arrived through the door: several at a time, as one visible job, on after a restart. */
export class Checking {
  private readonly queue = new FairQueue<number>();
  private running: Promise<void> | undefined;
  private readonly following: RuleFollowing;
  /** Starts more checks while a job runs. */
  private pump: (() => void) | undefined;
  private done = 0;
  private total = 0;
  /** Copies that are being made, by the file's number. */
  private readonly preparing = new Map<number, Promise<void>>();

  constructor(
    private readonly site: Pick<
      Site,
      | 'data'
      | 'blobs'
      | 'db'
      | 'items'
      | 'contents'
      | 'alikes'
      | 'arrivals'
      | 'rows'
      | 'rules'
      | 'pool'
      | 'jobs'
      | 'metadata'
      | 'events'
      | 'keepPrivate'
    >,
    private readonly matching: Matching,
  ) {
    site.events.on('changed', () => site.arrivals.allChanged());
    this.following = new RuleFollowing(site, (id) => this.prepare(id));
    site.events.on('rules', () => this.following.start());
    site.events.on('alike-found', (sha256s) => this.likenessFound(sha256s));
  }

  /** Goes on with what an earlier run of the server left unchecked. */
  resume(): void {
    this.following.start();
    for (const row of this.site.arrivals.inState('received')) this.add(row.id, row.personId);
  }

  /** @param personId whose line it waits in: the files of one hold those of others up no longer than one takes */
  add(id: number, personId: number): void {
    this.queue.push(id, personId);
    this.total++;
    if (this.pump) this.pump();
    else this.start();
  }

  private start(): void {
    this.done = 0;
    this.total = this.queue.length;
    const run = this.site.jobs
      .run('intake', 'Checking new files', (job) => this.work(job))
      .finally(() => {
        if (this.running === run) this.running = undefined;
      });
    // A failure stands in the job, for whoever looks; it must not end the server.
    run.catch(() => undefined);
    this.running = run;
  }

  /** Resolves when nothing is being checked. */
  async settled(): Promise<void> {
    while (this.running) await this.running;
    await this.following.settled;
  }

  /** Keeps the workers busy as long as files come in. Stopped: what is left is checked at the next start. */
  private work(job: RunningJob): Promise<void> {
    return new Promise((done, failed) => {
      let active = 0;
      let wrong: Error | undefined;
      const one = async (id: number) => {
        const row = this.site.arrivals.get(id);
        // What fails on one file keeps no other waiting; of what could not even be refused, the job tells.
        if (row)
          await onBehalf(row.personId, () => this.check(row)).catch((error: Error) => (wrong ??= error));
        job.progress(++this.done, this.total, 'files checked');
        this.site.events.emit('arrivals');
      };
      const pump = () => {
        while (active < this.site.pool.size * 2 && this.queue.length > 0 && !job.signal.aborted) {
          active++;
          one(this.queue.shift()!)
            .finally(() => active--)
            .then(pump, (error: Error) => {
              this.pump = undefined;
              failed(error);
            });
        }
        if (active > 0) return;
        this.pump = undefined;
        if (wrong) failed(wrong);
        else done();
      };
      this.pump = pump;
      pump();
    });
  }

  private async check(row: ArrivalRow): Promise<void> {
    const { site } = this;
    const arrived = row.upload ? site.data.upload(row.upload) : '';
    const file = arrived && existsSync(arrived) ? arrived : row.sha256 ? site.blobs.get(row.sha256) : arrived;
    try {
      const thumbs = site.data.thumbnails;
      const [answer, meta] = await Promise.all([
        site.pool.run('receive', { file, name: row.givenName, thumbs }, { limit: timeFor(row) }),
        site.metadata.read(file, row.givenName),
      ]);
      if ('refused' in answer) return await this.refuse(row, answer.refused);
      // Of formats that are not decoded here, their own words tell the size.
      const facts = { ...(kindOf(`x${answer.extension}`) === 'image' ? meta.size : {}), ...answer.facts };
      const { sha256 } = facts;
      const derived = await withEmbedded(site, file, `x${answer.extension}`, sha256, answer.derived);
      // From here on the bytes are found by their hash, also if the server stops in between.
      if (!site.arrivals.set(row, { sha256 })) throw new Error('it was left out');
      if (file === arrived) {
        const { size } = await stat(file);
        row.bytes = size;
        await site.blobs.link(file, sha256);
        await rm(`${arrived}.json`, { force: true });
      }
      const mime = mimeOf(`x${answer.extension}`);
      const convertible = HEIF.has(mime) && answer.derived.preview ? { convertible: mime } : {};
      const place = meta.place && !answer.rewritten;
      site.contents.save(sha256, derived, {
        codecs: facts.codecs ?? '',
        profile: meta.colourProfile,
        takenAt: meta.takenAt,
        place,
      });
      // Told together with all else that the door says.
      if (derived.signature) await this.matching.match(sha256);
      // What a person has said of it meanwhile counts.
      const latest = { ...(site.arrivals.get(row.id) ?? row), bytes: row.bytes };
      const words = { ...meta.words, ...latest.words };
      const naming = nameFor(site, { ...latest, words, facts, name: `x${answer.extension}` }, meta.takenAt);
      const there = site.arrivals.set(row, {
        state: 'ready',
        upload: null,
        bytes: row.bytes,
        name: latest.named ? latest.name : naming.name,
        plainName: naming.plain,
        facts: {
          ...facts,
          ...convertible,
          extension: answer.extension,
          place,
          device: meta.device,
          takenAt: meta.takenAt,
        },
        notes: [
          ...answer.notes,
          ...derived.notes.filter((note) => !answer.notes.includes(note)),
          ...(meta.note ? [meta.note] : []),
        ],
        words,
        archive: row.inside ? null : answer.archive,
      });
      // Left out while it was checked: nothing of it stays.
      if (!there) return await collectBlob(site, sha256);
      await this.prepare(row.id);
    } catch (error) {
      const now = site.arrivals.get(row.id);
      if (!now) return; // Left out by the person meanwhile.
      // Stopping: it is checked at the next start.
      if (error instanceof Unended && error.message.includes('closed')) return;
      // What a decoder says of itself helps nobody; it stands in the log.
      if (!(error instanceof Unended)) process.stderr.write(`Checking arrival ${row.id}: ${toldOf(error)}\n`);
      await this.refuse(row, `The file couldn’t be checked: ${whyNot(error)}. Upload it again.`);
      if (now.sha256) await collectBlob(site, now.sha256);
    }
  }

  /** A refused file leaves nothing but the sentence on the list. */
  private async refuse(row: ArrivalRow, sentence: string): Promise<void> {
    if (row.upload) {
      const file = this.site.data.upload(row.upload);
      await rm(file, { force: true });
      await rm(`${file}.json`, { force: true });
    }
    this.site.arrivals.set(row, { state: 'refused', refused: sentence, upload: null });
  }

  /** Other images have been found to show the same as these: who waits with them is told anew. */
  private likenessFound(sha256s: readonly string[]): void {
    const waiting = this.site.arrivals.withHash(sha256s);
    for (const id of waiting) this.site.arrivals.touch(id);
    if (waiting.length > 0) this.site.events.emit('arrivals');
  }

  /** Everything the findings are computed from, as the site is now. */
  checked(row: ArrivalRow): Checked {
    const { site } = this;
    const folder = folderWithin(row.folder, row.below);
    const path = joinPath(folder, row.name);
    // An edited image is another one than was sent.
    const same = row.recipe ? [] : site.items.withHash(row.sha256);
    if (row.ready) same.push(...site.items.withHash(row.ready.sha256));
    const there = site.items.atPath(path);
    const convertible = row.facts.convertible ?? null;
    const known = (item: {
      id: number;
      path: string;
      width: number | null;
      height: number | null;
      bytes: number;
    }) => ({
      itemId: item.id,
      path: item.path,
      width: item.width,
      height: item.height,
      bytes: item.bytes,
    });
    return {
      givenName: row.givenName,
      name: row.name,
      plainName: row.named ? row.name : row.plainName,
      folder,
      kind: kindOf(row.name),
      mime: convertible ? (row.choices.type === 'keep' ? convertible : 'image/jpeg') : mimeOf(row.name),
      convertible,
      bytes: row.bytes,
      readyBytes: row.ready?.bytes ?? null,
      width: row.facts.width ?? null,
      height: row.facts.height ?? null,
      frames: site.contents.framesOf(row.sha256),
      keepPrivate: site.keepPrivate,
      private: {
        place: row.facts.place ?? false,
        device: row.facts.device ?? false,
        stays: row.facts.privateStays ?? false,
      },
      archive: row.archive,
      notes: row.notes,
      described: Boolean(row.words.alt?.trim()) || row.words.decorative === true,
      same: same.map(known),
      twin: row.recipe ? null : site.arrivals.twinOf(row),
      namesake: site.arrivals.namesakeOf(row),
      // The largest is the one that others were made from.
      alike: site.alikes
        .of(row.sha256)
        .slice(0, ALIKE)
        .flatMap(({ sha256, relation }) =>
          site.items.withHash(sha256).map((item) => ({ ...known(item), turned: relation === 'turned' })),
        )
        .sort((a, b) => (b.width ?? 0) * (b.height ?? 0) - (a.width ?? 0) * (a.height ?? 0)),
      clash: there ? known(there) : null,
      rule: ruleFor(folder, site.rules.all()),
      choices: row.choices,
      recipe: row.recipe,
    };
  }

  /**
   * Makes the bytes that will go to the site, when they are others than those sent: smaller, without private facts. One
   * after the other for each file, as a choice may change while the copy of another is made.
   */
  prepare(id: number): Promise<void> {
    const before = this.preparing.get(id) ?? Promise.resolve();
    const next = before
      .catch(() => undefined)
      .then(() => prepareArrival(this.site, id, (row) => this.checked(row)))
      .finally(() => {
        if (this.preparing.get(id) === next) this.preparing.delete(id);
      });
    this.preparing.set(id, next);
    return next;
  }
}

/** Why a check came to no end, in our own words. */
function whyNot(error: unknown): string {
  if (error instanceof Unended) return error.message;
  const full = ['ENOSPC', 'SQLITE_FULL'].includes((error as NodeJS.ErrnoException).code ?? '');
  return full ? 'the disk is full' : 'what reads it failed on it';
}

/** Milliseconds for checking a file. Its name is only a hint: what is called an image and is a video is told so. */
function timeFor(row: ArrivalRow): number {
  return kindOf(row.givenName) === 'image' ? LIMITS.pictureTime : LIMITS.checkTime;
}
