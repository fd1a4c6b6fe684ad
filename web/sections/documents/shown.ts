import { useSite } from '../../stores/site.ts';

/** Where the images of a text are shown from, by their addresses in it; those of other sites are not fetched. */
export function imageAddress(path: string): (src: string) => string {
  const served = useSite().servedAddress(path);
  return (src) => {
    if (/^(?:[a-z][a-z\d+.-]*:|\/\/)/i.test(src)) return '';
    return URL.canParse(src, served) ? new URL(src, served).href : '';
  };
}

/** Kinds of things, each with how often where that is more than once. */
export const keptList = (all: readonly { what: string; times: number }[]): string =>
  all.map(({ what, times }) => (times === 1 ? what : `${what} (${times.toLocaleString('en')})`)).join(', ');
