import { lookup } from 'node:dns/promises';
import { request as requestHttp, type IncomingMessage } from 'node:http';
import { request as requestHttps } from 'node:https';
import { isIP } from 'node:net';
import ipaddr from 'ipaddr.js';
import { baseName } from '../../core/address/path.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../site/site.ts';
import { LIMITS } from './limits.ts';
import { takeIn } from './uploads.ts';

/** From where files may be fetched. `hosts`: names with port that may lie in the private network all the same. */
export interface FetchSetting {
  allowed: boolean;
  hosts: readonly string[];
}

/**
 * Fetches a file from another server into Intake. Only if the setting allows; never from the private network but for the
 * named hosts: every name is resolved first, each of its addresses must be a public one, and the connection goes to
 * exactly that address, also after each redirect.
 * @throws Fault with a sentence; nothing is left behind
 */
export async function fetchFile(
  site: Site,
  setting: FetchSetting,
  address: string,
  to: { personId: number; folder: string },
): Promise<number> {
  if (!setting.allowed)
    throw new Fault(
      'forbidden',
      'Fetching from other servers is switched off here.',
      'Whoever runs the server can allow it with --fetch.',
    );
  let url = readUrl(address);
  return site.jobs.run('fetch', `Fetching from ${url.host}`, async (job) => {
    for (let hop = 0; hop <= LIMITS.fetchRedirects; hop++) {
      const answer = await ask(url, await allowedAddress(url, setting), job.signal);
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
  });
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
  const found = isIP(name)
    ? [name]
    : (
        await lookup(name, { all: true }).catch(() => {
          throw new Fault('bad-request', `There is no server “${name}”.`, 'Check the address.');
        })
      ).map((one) => one.address);
  const port = url.port || (url.protocol === 'https:' ? '443' : '80');
  const named = setting.hosts.includes(`${name}:${port}`);
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
  return ipaddr.process(address).range() === 'unicast';
}

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
