export { count, weight } from '../../core/text/format.ts';

/** '21 Mar 2026, 18:00' in the person's own time zone. */
export function moment(iso: string): string {
  return new Date(iso).toLocaleString('en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
  });
}

/** '18:00' in the person's own time zone. */
export const timeOf = (date: Date | string): string =>
  new Date(date).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });

/** '21 Mar 2026'. */
export function dayOf(date: Date | string): string {
  return new Date(date).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });
}

export function clock(seconds: number): string {
  return `${Math.floor(seconds / 60)}:${String(Math.round(seconds % 60)).padStart(2, '0')}`;
}

export const MARK_WORDS = {
  described: ['described', 'not described'],
  named: ['named', 'name needs fixing'],
  filed: ['filed', 'not filed (no tag or folder)'],
  placed: ['in use', 'not in use'],
} as const;

/** Where the file of a record is, when it is not on the site. */
export const STATE_WORDS = {
  here: '',
  draft: 'draft, not on the site yet',
  aside: 'set aside',
  absent: 'not on the site',
} as const;

export const USE_WORDS = {
  placed: 'in use',
  mentioned: 'mentioned only',
  unused: 'unused',
  unknown: 'use not known yet',
} as const;
