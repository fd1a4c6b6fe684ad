import pino, { type DestinationStream, type Logger } from 'pino';

/** What the server tells of itself, line by line. What stands as `error` in a line is told by `toldOf`. */
export const newLog = (level: string, to: DestinationStream): Logger =>
  pino({ level, serializers: { error: toldOf } }, to);

/**
 * An error for the log: what it is and where it arose, without what it quotes. Parsers quote what they read, and that may be what somebody
 * wrote about an item. What the system says (errno(3)) names files only, and is kept whole.
 */
export function toldOf(error: unknown): string {
  if (!(error instanceof Error)) return 'something that is no error was thrown';
  const { name, message, stack = '' } = error;
  if ('syscall' in error) return stack;
  const frames = stack.split('\n').filter((line) => /^\s+at .+:\d+:\d+\)?$/.test(line));
  return [`${name}: ${unquoted(message)}`, ...frames].join('\n');
}

/** A message without what stands between its first mark of quotation and its last: what is quoted may hold such marks itself. */
function unquoted(message: string): string {
  const first = message.search(MARK);
  if (first < 0) return message;
  const behind = [...message].reverse().findIndex((sign) => MARK.test(sign));
  return `${message.slice(0, first)}“…”${message.slice(message.length - behind)}`;
}
const MARK = /["'“”‘’`]/;
