import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { Transform, type Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { FileStore } from '@tus/file-store';
import { EVENTS, Server, type ServerOptions } from '@tus/server';
import type { SitePath } from '../../core/address/path.ts';
import { targetFault } from '../../core/address/target.ts';
import type { Words } from '../../core/describe/fields.ts';
import { safeFolder } from '../../core/intake/arrival-names.ts';
import { Fault } from '../fault.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import type { Site } from '../app/site.ts';
import type { ArrivalRow } from '../db/arrivals.ts';
import { LIMITS } from '../limits.ts';

/** Receives files by the tus protocol (tus.io, resumable uploads 1.0.0): nothing is sent twice, memory stays flat. */
export class Uploads {
  /** Who sends, by request: the protocol's own code knows no people. */
  private readonly senders = new WeakMap<IncomingMessage, number>();
  private readonly server: Server;

  constructor(site: Pick<OpenedSite, 'data' | 'arrivals' | 'now' | 'checking'>) {
    this.server = createServer(site, (req) => {
      const person = this.senders.get(req.runtime!.node!.req as IncomingMessage);
      if (person === undefined) throw new Error('a request without a person');
      return person;
    });
  }

  /** Answers one request of the protocol. */
  async handle(req: IncomingMessage, res: ServerResponse, personId: number): Promise<void> {
    this.senders.set(req, personId);
    await this.server.handle(req, res);
  }
}

type TusRequest = Parameters<NonNullable<ServerOptions['onUploadCreate']>>[0];

function createServer(
  site: Pick<OpenedSite, 'data' | 'arrivals' | 'now' | 'checking'>,
  personOf: (req: TusRequest) => number,
): Server {
  const server = new Server({
    path: '/api/uploads',
    datastore: new FileStore({ directory: site.data.arrivals }),
    maxSize: LIMITS.fileBytes,
    relativeLocation: true,
    // Only the application's own pages send.
    allowedOrigins: () => false,
    namingFunction: () => randomUUID(),
    onIncomingRequest: async (req, id) => {
      const row = site.arrivals.byUpload(id);
      if (req.method !== 'POST' && (!row || row.personId !== personOf(req)))
        throw { status_code: 404, body: 'This upload no longer exists. Upload the file again.' };
      if (req.method === 'PATCH') countWhatComes(site, row!, req);
      return Promise.resolve();
    },
    onUploadCreate: (req, upload) => {
      const personId = personOf(req);
      // Of a file whose length is to follow, what comes with this request counts first.
      const bytes = upload.size ?? lengthOf(req);
      const full = noRoom(site, personId, bytes);
      if (full) throw { status_code: 413, body: full };
      const { name = '', below = '', folder = '' } = upload.metadata ?? {};
      const wanted = folder ?? '';
      site.arrivals.insert({
        at: site.now(),
        personId,
        givenName: (name || 'file').slice(0, 1000),
        bytes,
        upload: upload.id,
        folder: wanted !== '' && targetFault(wanted) === undefined ? wanted : '',
        below: safeFolder(below ?? ''),
      });
      return Promise.resolve({});
    },
    onUploadFinish: (_req, upload) => {
      const row = site.arrivals.byUpload(upload.id);
      if (row) {
        site.arrivals.set(row, { state: 'received' });
        site.checking.add(row.id, row.personId);
      }
      return Promise.resolve({});
    },
    onResponseError: (_req, error) =>
      (error as NodeJS.ErrnoException).code === 'ENOSPC'
        ? { status_code: 507, body: 'The disk is full. Free some space to resume.' }
        : undefined,
  });
  server.on(EVENTS.POST_TERMINATE, (_req, _res, id) => {
    const row = site.arrivals.byUpload(id);
    if (row) site.arrivals.remove(row.id);
  });
  return server;
}

/** What comes of a file whose length was not said counts as it comes. @throws what the protocol answers, when there is no room */
function countWhatComes(site: Pick<Site, 'arrivals'>, row: ArrivalRow, req: TusRequest): void {
  const there = Number(req.headers.get('upload-offset')) + lengthOf(req);
  if (!(there > row.bytes)) return;
  const full = noRoom(site, row.personId, there - row.bytes);
  if (full) throw { status_code: 413, body: full };
  site.arrivals.set(row, { bytes: there });
}

/** Bytes that a request brings. @throws what the protocol answers, when it does not say */
function lengthOf(req: TusRequest): number {
  const length = req.headers.get('content-length');
  if (length !== null) return Number(length);
  throw { status_code: 411, body: 'The request does not say how long it is. Send the file again.' };
}

/** Why nothing more can be taken from a person now; undefined: there is room. */
function noRoom(site: Pick<Site, 'arrivals'>, personId: number, bytes: number): string | undefined {
  const waiting = site.arrivals.waiting(personId);
  if (waiting.files >= LIMITS.waiting)
    return `${LIMITS.waiting.toLocaleString('en')} files are already waiting. Bring those in first.`;
  if (waiting.bytes + bytes > LIMITS.waitingBytes)
    return `With it, more than ${LIMITS.waitingBytes / 1024 ** 3} GiB would wait. Bring in first what is there.`;
  return undefined;
}

/**
 * Takes bytes that the server itself has read: an archive's entry, a file fetched from elsewhere.
 * @throws Fault 'too-large', 'disk-full'; then nothing is left behind
 */
export async function takeIn(
  site: Pick<OpenedSite, 'data' | 'arrivals' | 'now' | 'checking'>,
  body: Readable,
  file: {
    personId: number;
    givenName: string;
    folder: SitePath;
    below: SitePath;
    inside: boolean;
    most: number;
    /** What is known of it beforehand; it goes before what the file says of itself. */
    words?: Partial<Words>;
  },
): Promise<number> {
  const full = noRoom(site, file.personId, 0);
  if (full) throw new Fault('too-large', full, 'Then try again.');
  const upload = randomUUID();
  const to = site.data.upload(upload);
  let bytes = 0;
  const measure = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      bytes += chunk.length;
      done(
        bytes > file.most
          ? new Fault('too-large', `“${file.givenName}” is larger than it may be.`, 'Send a smaller one.')
          : null,
        chunk,
      );
    },
  });
  try {
    await pipeline(body, measure, createWriteStream(to, { flags: 'wx', flush: true }));
  } catch (error) {
    await rm(to, { force: true });
    if ((error as NodeJS.ErrnoException).code === 'ENOSPC')
      throw new Fault(
        'disk-full',
        'The disk is full, so the file was not stored.',
        'Free some space and send it again.',
      );
    throw error;
  }
  const { most: _most, ...row } = file;
  const id = site.arrivals.insert({ ...row, at: site.now(), bytes, upload, state: 'received' });
  site.checking.add(id, row.personId);
  return id;
}
