import { createServer, type RequestListener, type Server } from 'node:http';

/** Bytes of a request's headers. Cookies of other pages on the same host come with each, and must not keep anyone out: see `tidyCookies`. */
const HEADER_BYTES = 1_000_000;
/** Milliseconds for the headers of a request; bodies have limits of their own. */
const HEADER_TIME = 15_000;

/** A server whose requests cannot be kept from their sentence, or kept open, by what surrounds them. */
export function serverFor(listener: RequestListener): Server {
  return createServer({ maxHeaderSize: HEADER_BYTES, headersTimeout: HEADER_TIME }, listener);
}
