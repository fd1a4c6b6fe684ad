/**
 * A command as one whose memory the system bounds (RLIMIT_DATA: what it may write to, POSIX getrlimit): asking for more fails at once, where
 * looking from outside would see it too late. Where there is no POSIX shell, the command as it is.
 * @param megabytes of its own memory
 */
export function limited(
  megabytes: number,
  command: string,
  args: readonly string[],
): { command: string; args: string[] } {
  if (process.platform === 'win32') return { command, args: [...args] };
  // A system that knows no such limit runs it without one.
  const script = `ulimit -d ${Math.round(megabytes * 1000)} 2>/dev/null; exec "$0" "$@"`;
  return { command: '/bin/sh', args: ['-c', script, command, ...args] };
}
