/** Characters of a password at least and at most; more would only cost time (OWASP Authentication Cheat Sheet). */
export const LEAST_PASSWORD = 12;
export const MOST_PASSWORD = 200;

/**
 * Why a password is no good, as a sentence; undefined: it is. Length is what counts, and that nobody guesses it first: kinds of characters are not
 * asked for (NIST SP 800-63B).
 * @param common passwords that many people have, in lower case
 */
export function passwordFault(
  password: string,
  name: string,
  common: ReadonlySet<string>,
): string | undefined {
  const length = [...password].length;
  if (length < LEAST_PASSWORD)
    return `The password has ${length} characters; it needs at least ${LEAST_PASSWORD}. A few words in a row are easy to remember.`;
  if (length > MOST_PASSWORD) return `The password is longer than ${MOST_PASSWORD} characters. Shorten it.`;
  const plain = password.toLowerCase();
  if (common.has(plain) || isRepeated(plain) || isRun(plain))
    return 'Many people use this password, so it is guessed first. Choose another one.';
  const own = letters(name);
  const written = letters(password);
  if (own.length >= 3 && written.includes(own) && written.replaceAll(own, '').length < 6)
    return 'The password is little more than your name. Choose another one.';
  return undefined;
}

const letters = (text: string) => text.toLowerCase().replace(/[^\p{L}\p{N}]/gu, '');

/** The same few characters again and again: 'abcabcabcabc'. */
const isRepeated = (text: string) =>
  [1, 2, 3, 4].some((length) =>
    text.startsWith(text.slice(0, length).repeat(Math.floor(text.length / length))),
  );

/** Each character follows on the one before, up or down: '123456789012', 'lkjihgfedcba'. */
function isRun(text: string): boolean {
  const steps = new Set<number>();
  for (let at = 1; at < text.length; at++) {
    const step = text.charCodeAt(at) - text.charCodeAt(at - 1);
    // From 9 it goes on with 0.
    steps.add(step === -9 ? 1 : step === 9 ? -1 : step);
  }
  return steps.size === 1 && [1, -1].includes([...steps][0]!);
}
