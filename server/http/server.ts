import { createServer, type RequestListener, type Server } from 'node:http';
import { createServer as createSecureServer } from 'node:https';

/** Bytes of a request's headers. Cookies of other pages on the same host come with each, and must not keep anyone out: see `tidyCookies`. */
const HEADER_BYTES = 1_000_000;
/** Milliseconds for the headers of a request; bodies have limits of their own. */
const HEADER_TIME = 15_000;

/** A certificate and its key, as PEM. */
export interface Tls {
  cert: Buffer;
  key: Buffer;
}

/** A server whose requests cannot be kept from their sentence, or kept open, by what surrounds them. */
export function serverFor(listener: RequestListener, tls?: Tls): Server {
  const limits = { maxHeaderSize: HEADER_BYTES, headersTimeout: HEADER_TIME };
  return tls ? createSecureServer({ ...limits, ...tls }, listener) : createServer(limits, listener);
}
