/** Where somebody wanted to go who had to sign in first; it is kept while they are at the organisation's provider. */
const KEY = 'iconomos-way-back';

/** Only to a place of this application. */
export const safeBack = (back: unknown): string =>
  typeof back === 'string' && /^\/(?![/\\])/.test(back) ? back : '/library';

export const keepBack = (back: unknown): void => sessionStorage.setItem(KEY, safeBack(back));

export function takeBack(): string {
  const back = sessionStorage.getItem(KEY);
  sessionStorage.removeItem(KEY);
  return safeBack(back);
}
