import { addAbortSignal } from 'node:stream';
import { baseName } from '../../core/address/path.ts';
import { Fault } from '../fault.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import type { RunningJob } from '../workers/jobs.ts';
import { LIMITS } from '../limits.ts';
import { takeIn } from './uploads.ts';
import { type FetchSetting, readUrl, allowedAddress, ask } from '../services/outgoing.ts';

/**
 * Fetches a file from another server into Intake. Only if the setting allows; never from the private network but for the
 * named hosts: every name is resolved first, each of its addresses must be a public one, and the connection goes to
 * exactly that address, also after each redirect. It has a time in all, and ends with whoever waits for it.
 * @param leaves is aborted when nobody waits any more
 * @throws Fault with a sentence; nothing is left behind
 */
export async function fetchFile(
  site: Pick<OpenedSite, 'data' | 'arrivals' | 'jobs' | 'now' | 'checking'>,
  setting: FetchSetting,
  address: string,
  to: { personId: number; folder: string },
  leaves: AbortSignal = new AbortController().signal,
  limits: { fetchWhole: number } = LIMITS,
): Promise<number> {
  let url = readUrl(address);
  return site.jobs.run('fetch', `Fetching from ${url.host}`, async (job) => {
    const late = AbortSignal.timeout(limits.fetchWhole);
    const signal = AbortSignal.any([job.signal, leaves, late]);
    try {
      return await fetchNow(job, signal);
    } catch (error) {
      if (late.aborted)
        throw new Fault(
          'bad-request',
          `${url.host} takes too long: after ${limits.fetchWhole / 60_000} minutes the file was not here.`,
          'Download the file yourself and drop it here.',
        );
      throw error;
    }
  });

  async function fetchNow(job: RunningJob, signal: AbortSignal): Promise<number> {
    for (let hop = 0; hop <= LIMITS.fetchRedirects; hop++) {
      const answer = await ask(url, await allowedAddress(url, setting), signal);
      const status = answer.statusCode ?? 0;
      if (status >= 300 && status < 400 && answer.headers.location) {
        answer.destroy();
        url = readUrl(new URL(answer.headers.location, url).href);
        continue;
      }
      if (status !== 200) {
        answer.destroy();
        throw new Fault(
          'bad-request',
          `${url.host} answered ${status} instead of the file.`,
          'Check the address.',
        );
      }
      const total = Number(answer.headers['content-length'] ?? 0);
      let got = 0;
      answer.on('data', (chunk: Buffer) => job.progress((got += chunk.length), total, 'bytes fetched'));
      // Who waits no longer, or too long, ends it on the way as well.
      addAbortSignal(signal, answer);
      return takeIn(site, answer, {
        personId: to.personId,
        givenName: baseName(readableName(url.pathname)) || url.host,
        folder: to.folder,
        below: '',
        inside: false,
        most: LIMITS.fileBytes,
      });
    }
    throw new Fault('bad-request', 'The address leads on and on.', 'Use the address of the file itself.');
  }
}

/** An address's path as text; one that is not valid UTF-8 stays as it is written. */
function readableName(path: string): string {
  try {
    return decodeURIComponent(path);
  } catch {
    return path;
  }
}
