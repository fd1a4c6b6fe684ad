/**
 * What stands first in a text of markup: behind white space, an XML declaration and other instructions, comments and a document type. In
 * one pass, so that no text takes long. Undefined: the text ends before it.
 */
export function firstElement(text: string): string | undefined {
  let at = 0;
  const after = (mark: string, from: number) => {
    const end = text.indexOf(mark, from);
    return end < 0 ? text.length : end + mark.length;
  };
  for (;;) {
    while (at < text.length && /\s/.test(text[at]!)) at++;
    if (text.startsWith('<?', at)) at = after('?>', at);
    else if (text.startsWith('<!--', at)) at = after('-->', at);
    else if (/^<!doctype/i.test(text.slice(at, at + 9))) {
      const end = after('>', at);
      const subset = text.slice(at, end).indexOf('[');
      at = subset >= 0 ? after('>', after(']', at + subset)) : end;
    } else return at < text.length ? text.slice(at) : undefined;
  }
}

/** Whether a text is a drawing, whatever prefix its elements have. */
export const isDrawing = (text: string): boolean =>
  /^<(?:[\w-]+:)?svg[\s>/]/i.test(firstElement(text)?.slice(0, 100) ?? '');

/**
 * Elements by which browsers take a file without a type for a page (MIME Sniffing Standard, 7.1), and instructions that servers run.
 */
const PAGE_ELEMENTS =
  /^<(?:html|head|script|iframe|h1|div|font|table|a|style|title|b|body|br|p|frameset|object|embed|form|meta|link|base)[\s>/]/i;
const XHTML = 'http://www.w3.org/1999/xhtml';

/** Whether a browser, or a server, may run a text: a page, a part of one, XHTML under any name, or a script. */
export function mayRun(text: string): boolean {
  const start = text.trimStart();
  if (/^(?:#!|<\?(?:php|=)|<%|<!doctype\s+html)/i.test(start)) return true;
  if (!start.startsWith('<')) return false;
  return PAGE_ELEMENTS.test(firstElement(start)?.slice(0, 100) ?? '') || text.includes(XHTML);
}
