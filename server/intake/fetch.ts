import { lookup } from 'node:dns/promises';
import { request as requestHttp, type IncomingMessage } from 'node:http';
import { request as requestHttps } from 'node:https';
import { isIP } from 'node:net';
import { addAbortSignal } from 'node:stream';
import ipaddr from 'ipaddr.js';
import { baseName } from '../../core/address/path.ts';
import { Fault } from '../fault.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import type { RunningJob } from '../workers/jobs.ts';
import { LIMITS } from '../media/limits.ts';
import { takeIn } from './uploads.ts';

/** From where files may be fetched: `allowed`: from all public servers; `hosts`: from these, by name and port, wherever they lie. */
export interface FetchSetting {
  allowed: boolean;
  hosts: readonly string[];
}

/**
 * Fetches a file from another server into Intake. Only if the setting allows; never from the private network but for the
 * named hosts: every name is resolved first, each of its addresses must be a public one, and the connection goes to
 * exactly that address, also after each redirect. It has a time in all, and ends with whoever waits for it.
 * @param leaves is aborted when nobody waits any more
 * @throws Fault with a sentence; nothing is left behind
 */
export async function fetchFile(
  site: OpenedSite,
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

/** An address of the web, http or https. @throws Fault 'bad-request' */
export function readUrl(address: string): URL {
  let url: URL;
  try {
    url = new URL(address.trim());
  } catch {
    throw new Fault('bad-request', `“${address}” is no address.`, 'Write it whole, with https://.');
  }
  if (!['http:', 'https:'].includes(url.protocol) || url.username || url.password)
    throw new Fault(
      'bad-request',
      'Only plain http and https addresses are fetched.',
      'Use another address.',
    );
  return url;
}

/** The address to connect to. @throws Fault when the name leads into the private network */
export async function allowedAddress(url: URL, setting: FetchSetting): Promise<string> {
  const name = url.hostname.replace(/^\[|\]$/g, '');
  const port = url.port || (url.protocol === 'https:' ? '443' : '80');
  const named = setting.hosts.includes(`${name}:${port}`);
  if (!named && !setting.allowed)
    throw new Fault(
      'forbidden',
      `Fetching from other servers is switched off here, so nothing was asked of “${url.host}”.`,
      'Whoever runs the server can allow it with --fetch.',
    );
  const found = isIP(name)
    ? [name]
    : /(?:^|\.)localhost$/i.test(name)
      ? // Always this machine (RFC 6761), whatever a name server says.
        ['127.0.0.1']
      : (
          await lookup(name, { all: true }).catch(() => {
            throw new Fault('bad-request', `There is no server “${name}”.`, 'Check the address.');
          })
        ).map((one) => one.address);
  if (!named && found.some((one) => !isPublic(one)))
    throw new Fault(
      'forbidden',
      `“${url.host}” lies in the private network, which is not fetched from.`,
      'Download the file and drop it here.',
    );
  return found[0]!;
}

/** True for addresses of the public internet (IANA special-purpose registries); those mapped from IPv4 count as it. */
export function isPublic(address: string): boolean {
  const at = ipaddr.process(address);
  // Of IPv6 only 2000::/3 is given out (RFC 4291); what else is called unicast may hold an IPv4 address, as ::127.0.0.1 does.
  return at.range() === 'unicast' && (at instanceof ipaddr.IPv4 || at.match(GIVEN_OUT));
}
const GIVEN_OUT: [ipaddr.IPv6, number] = [ipaddr.IPv6.parse('2000::'), 3];

/** One request to an address that was found allowed. @throws Fault when there is no answer */
export function ask(url: URL, address: string, signal: AbortSignal): Promise<IncomingMessage> {
  return new Promise((done, failed) => {
    const request = (url.protocol === 'https:' ? requestHttps : requestHttp)(
      url,
      {
        signal,
        timeout: LIMITS.fetchTime,
        headers: { 'User-Agent': 'Iconomos', Accept: '*/*' },
        // The name was resolved and checked already: it may not lead elsewhere now.
        lookup: (_name, options, answer) => {
          const family = isIP(address);
          if (options.all) answer(null, [{ address, family }]);
          else answer(null, address, family);
        },
      },
      done,
    );
    request.on('timeout', () => request.destroy(new Error('no answer in time')));
    request.on('error', (error) =>
      failed(
        signal.aborted
          ? error
          : new Fault('bad-request', `${url.host} does not answer: ${error.message}.`, 'Try again later.'),
      ),
    );
    request.end();
  });
}
