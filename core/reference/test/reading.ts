import { readPage } from '../read.ts';
import { readSource, type Source } from '../source.ts';

export const utf8 = (text: string) => new TextEncoder().encode(text);
export const latin1 = (text: string) => Uint8Array.from(text, (char) => char.charCodeAt(0));
export const text = (bytes: Uint8Array) => new TextDecoder('utf-8', { ignoreBOM: true }).decode(bytes);

export function sourceOf(bytes: Uint8Array): Source {
  const source = readSource(bytes);
  if ('unread' in source) throw new Error(source.unread);
  return source;
}

export function references(path: string, content: string | Uint8Array) {
  const source = sourceOf(typeof content === 'string' ? utf8(content) : content);
  return readPage(path, source).references.map((one) => ({
    ...one,
    raw: source.raw.slice(one.start, one.end),
  }));
}

export const urls = (path: string, content: string | Uint8Array) =>
  references(path, content).map((one) => one.url);
