import type { Upload } from 'tus-js-client';
import { markRaw, reactive } from 'vue';
import { later } from '../kit/later.ts';
import { allKept, fileOf, forget, keep, type KeptFile } from './keep.ts';

/** A file on its way from this browser to the server. */
export interface Sending {
  key: string;
  file: File;
  below: string;
  folder: string;
  /** The name of the upload on the server, once it has one. */
  upload: string;
  state: 'waiting' | 'sending' | 'resting' | 'failed';
  sent: number;
  fault: string;
}

/** More at once would only share the same line. */
const AT_ONCE = 3;
/** Small files are sent with their first request; larger ones get their place first, so that they can be resumed. */
const SMALL = 500_000;
const tus = later(() => import('tus-js-client'));
const RETRY = [0, 1000, 3000, 5000, 10_000, ...Array.from({ length: 60 }, () => 15_000)];

/** Sends files by the tus protocol, a few at a time, on after lost connections and reloads. */
export class Sender {
  readonly sendings = reactive<Sending[]>([]);
  private readonly uploads = new Map<string, Upload>();
  /** Where those go on that were begun before. */
  private readonly begun = new Map<string, string>();
  /** Kept files that the browser reads again only with the person's leave, by their name on the server. */
  readonly held = reactive(new Map<string, { key: string; kept: KeptFile }>());

  constructor(private readonly onSent: () => void) {
    window.addEventListener('online', () => this.again());
    window.addEventListener('beforeunload', (event) => {
      if (this.unsent > 0) event.preventDefault();
    });
  }

  /** Files with bytes that are still to be sent. */
  get unsent(): number {
    return this.sendings.filter((one) => one.state !== 'failed').length;
  }

  /** Goes on with the files that were being sent when the page was left. */
  async resume(): Promise<void> {
    for (const [key, kept] of await allKept()) {
      if (!this.sendings.some((one) => one.key === key)) await this.goOnWith(key, kept);
    }
  }

  /** Goes on with a large file, after the person has let the browser read it again. */
  async goOn(upload: string): Promise<void> {
    const held = this.held.get(upload);
    if (held) await this.goOnWith(held.key, held.kept, true);
  }

  private async goOnWith(key: string, kept: KeptFile, ask = false): Promise<void> {
    const { below, folder, uploadUrl } = kept;
    const file = await fileOf(kept, ask);
    if (file === undefined) {
      this.held.set(nameOf(uploadUrl), { key, kept: markRaw(kept) });
      return;
    }
    this.held.delete(nameOf(uploadUrl));
    if (file) this.push({ key, file, below, folder, uploadUrl });
    else await forget(key);
  }

  async add(file: File, below: string, folder: string, uploadUrl = ''): Promise<void> {
    const key = crypto.randomUUID();
    this.push({ key, file, below, folder, uploadUrl });
    await keep(key, { file, below, folder, uploadUrl });
  }

  private push(from: { key: string; file: File; below: string; folder: string; uploadUrl: string }) {
    const { uploadUrl, ...rest } = from;
    this.sendings.push({ ...rest, upload: nameOf(uploadUrl), state: 'waiting', sent: 0, fault: '' });
    this.begun.set(from.key, uploadUrl);
    this.feed();
  }

  private async start(sending: Sending): Promise<void> {
    sending.state = 'sending';
    try {
      const { Upload } = await tus();
      // It may have been given up meanwhile.
      if (this.begun.has(sending.key)) this.uploadFor(sending, Upload).start();
    } catch {
      // Without the server, what sends cannot be had either.
      sending.state = 'resting';
      setTimeout(() => this.begun.has(sending.key) && void this.start(sending), 3000);
    }
  }

  private uploadFor(sending: Sending, Tus: typeof Upload): Upload {
    const { file, key, below, folder } = sending;
    const upload = new Tus(file, {
      endpoint: '/api/uploads',
      uploadUrl: this.begun.get(key) || null,
      metadata: { name: file.name, below, folder },
      retryDelays: RETRY,
      storeFingerprintForResuming: false,
      uploadDataDuringCreation: file.size <= SMALL,
      onUploadUrlAvailable: () => {
        sending.upload = nameOf(upload.url ?? '');
        void keep(key, { file, below, folder, uploadUrl: upload.url ?? '' });
      },
      onProgress: (sent) => {
        sending.sent = sent;
        sending.state = 'sending';
      },
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0;
        // Said and shown meanwhile: the connection is lost, and it goes on by itself.
        sending.state = 'resting';
        return status === 0 || status === 409 || status === 423 || status >= 500;
      },
      onError: (error) => {
        const answer = 'originalResponse' in error ? error.originalResponse : null;
        sending.state = 'failed';
        sending.fault = answer?.getBody() || 'The server did not answer for a long time. Upload it again.';
        void forget(key);
        this.feed();
      },
      onSuccess: () => {
        this.remove(key);
        this.onSent();
        this.feed();
      },
    });
    this.uploads.set(key, upload);
    return upload;
  }

  private feed(): void {
    const busy = this.sendings.filter((one) => one.state === 'sending' || one.state === 'resting').length;
    for (const next of this.sendings.filter((one) => one.state === 'waiting').slice(0, AT_ONCE - busy))
      void this.start(next);
  }

  /** The connection is back: no need to wait for the next try. */
  private again(): void {
    for (const one of this.sendings.filter((sending) => sending.state === 'resting')) {
      const upload = this.uploads.get(one.key);
      void upload?.abort().then(() => upload.start());
    }
  }

  /** Forgets what was kept to go on with. */
  async forgetHeld(upload: string): Promise<void> {
    const held = this.held.get(upload);
    this.held.delete(upload);
    if (held) await forget(held.key);
  }

  /** Gives a file up, also on the server. */
  async stop(key: string): Promise<void> {
    const upload = this.uploads.get(key);
    this.remove(key);
    // What the server has of it goes with its line on the list.
    await upload?.abort();
    this.feed();
  }

  private remove(key: string): void {
    const at = this.sendings.findIndex((one) => one.key === key);
    if (at >= 0) this.sendings.splice(at, 1);
    this.uploads.delete(key);
    this.begun.delete(key);
    void forget(key);
  }
}

function nameOf(uploadUrl: string): string {
  return uploadUrl.split('/').at(-1) ?? '';
}
