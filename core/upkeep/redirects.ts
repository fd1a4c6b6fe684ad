import type { Redirect } from '../address/redirects.ts';

export interface RedirectFinding extends Redirect {
  check: 'idle-redirects' | 'redirect-chains';
  why: string;
  /** Where it should lead; null: it can go. */
  better: string | null;
}

/**
 * What is to be said of redirects.
 * @param isThere whether the site serves something under an address
 */
export function redirectFindings(
  redirects: readonly Redirect[],
  isThere: (address: string) => boolean,
): RedirectFinding[] {
  const byFrom = new Map(redirects.map((one) => [one.from, one.to]));
  const found: RedirectFinding[] = [];
  for (const one of redirects) {
    if (isThere(one.from)) {
      found.push({
        ...one,
        check: 'idle-redirects',
        why: 'The old address is a file again.',
        better: null,
      });
      continue;
    }
    const seen = new Set([one.from]);
    let end = one.to;
    while (!isThere(end) && byFrom.has(end) && !seen.has(end)) {
      seen.add(end);
      end = byFrom.get(end)!;
    }
    if (!isThere(end))
      found.push({ ...one, check: 'idle-redirects', why: 'The target doesn’t exist.', better: null });
    else if (end !== one.to)
      found.push({
        ...one,
        check: 'redirect-chains',
        why: `It takes ${seen.size} steps.`,
        better: end,
      });
  }
  return found;
}
