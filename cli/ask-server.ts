import { Report } from '../api/report.ts';
import { Fault } from '../server/fault.ts';

/** A report takes its time; nobody waits for longer than this. In milliseconds. */
const LONGEST = 30 * 60_000;

/**
 * The report of a running server.
 * @param address where it is: http://127.0.0.1:4300
 * @throws Fault in words, where it doesn't answer or refuses
 */
export async function reportFromServer(address: string, token: string, quick: boolean): Promise<Report> {
  const asked = new URL(`/api/report?quick=${quick ? 1 : 0}`, address);
  const answer = await fetch(asked, {
    headers: { Authorization: `Bearer ${token}` },
    redirect: 'error',
    signal: AbortSignal.timeout(LONGEST),
  }).catch((error: Error) => {
    throw new Fault(
      'bad-request',
      `The server at ${asked.origin} doesn’t answer (${(error.cause as Error | undefined)?.message ?? error.message}).`,
      'Start it, or check the address.',
    );
  });
  const said: unknown = await answer.json().catch(() => undefined);
  if (!answer.ok) {
    const { message, remedy } = (said ?? {}) as { message?: string; remedy?: string };
    throw new Fault(
      'bad-request',
      message ?? `The server answered with ${answer.status}.`,
      remedy ?? 'Check the address.',
    );
  }
  const report = Report.safeParse(said);
  if (report.success) return report.data;
  throw new Fault('bad-request', `What answers at ${asked.origin} isn’t Iconomos.`, 'Check the address.');
}
