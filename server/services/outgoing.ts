import { lookup } from 'node:dns/promises';
import { request as requestHttp, type IncomingMessage } from 'node:http';
import { request as requestHttps } from 'node:https';
import { isIP } from 'node:net';
import ipaddr from 'ipaddr.js';
import { Fault } from '../fault.ts';
import { LIMITS } from '../limits.ts';

/** From where files may be fetched: `allowed`: from all public servers; `hosts`: from these, by name and port, wherever they lie. */
export interface FetchSetting {
  allowed: boolean;
  hosts: readonly string[];
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

/** What is sent along: JSON, or the bytes of an image to be kept there. */
export type Sent = { json: object } | { put: Uint8Array; type: string };

/** One request to an address that was found allowed: GET, POST with JSON, or PUT. @throws Fault when there is no answer */
export function ask(
  url: URL,
  address: string,
  signal: AbortSignal,
  { sent, timeout = LIMITS.fetchTime }: { sent?: Sent; timeout?: number } = {},
): Promise<IncomingMessage> {
  const type = sent && ('put' in sent ? sent.type : 'application/json');
  const body = sent && ('put' in sent ? sent.put : Buffer.from(JSON.stringify(sent.json)));
  return new Promise((done, failed) => {
    const request = (url.protocol === 'https:' ? requestHttps : requestHttp)(
      url,
      {
        method: sent === undefined ? 'GET' : 'put' in sent ? 'PUT' : 'POST',
        signal,
        timeout,
        headers: {
          'User-Agent': 'Iconomos',
          Accept: '*/*',
          ...(body ? { 'Content-Type': type, 'Content-Length': body.length } : {}),
        },
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
    request.end(body);
  });
}
