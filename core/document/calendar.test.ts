import { expect, test } from 'vitest';
import { readCalendar } from './calendar.ts';

const words = (text: string) =>
  readCalendar(text)
    .html.replace(/<\/(h1|h2|p)>/g, '\n')
    .replace(/<[^>]+>/g, '')
    .trim()
    .split('\n');
const calendar = (...lines: string[]) => ['BEGIN:VCALENDAR', ...lines, 'END:VCALENDAR', ''].join('\r\n');

test('events stand by their dates, with when, where and how often', () => {
  expect(
    words(
      calendar(
        'X-WR-CALNAME:Open nights',
        'BEGIN:VEVENT',
        'DTSTART;TZID="Europe/Isle_of_Man":20260403T190000',
        'DTEND;TZID=Europe/Isle_of_Man:20260403T213000',
        'SUMMARY:Saturn\\, seen by all',
        'RRULE:FREQ=WEEKLY;COUNT=3',
        'END:VEVENT',
        'BEGIN:VEVENT',
        'DTSTART:20260327T190000Z',
        'SUMMARY:Open ni',
        ' ght',
        'LOCATION:The dome',
        'DESCRIPTION:Bring a torch.\\nA red one <b>only</b>.',
        'END:VEVENT',
        'BEGIN:VEVENT',
        'DTSTART;VALUE=DATE:20261224',
        'DTEND;VALUE=DATE:20261225',
        'STATUS:CANCELLED',
        'END:VEVENT',
        'BEGIN:VEVENT',
        'DTSTART;VALUE=DATE:20261230',
        'DTEND;VALUE=DATE:20270101',
        'SUMMARY:Closed',
        'END:VEVENT',
        'BEGIN:VEVENT',
        'DTSTART;VALUE=DATE:20280228',
        'DTEND;VALUE=DATE:20280301',
        'SUMMARY:Leap',
        'END:VEVENT',
      ),
    ),
  ).toEqual([
    'Open nights',
    'Open night',
    '27 March 2026, 19:00 (UTC)',
    'The dome',
    'Bring a torch.',
    'A red one &lt;b&gt;only&lt;/b&gt;.',
    'Saturn, seen by all',
    '3 April 2026, 19:00 to 21:30 (Europe/Isle of Man)',
    'Repeats every week',
    'An event without a title',
    '24 December 2026',
    'Cancelled',
    'Closed',
    '30 December 2026 to 31 December 2026',
    'Leap',
    '28 February 2028 to 29 February 2028',
  ]);
});

test('what is no calendar has no events; what isn’t shown is told', () => {
  expect(words('nothing')).toEqual(['It holds no events.']);
  expect(readCalendar(calendar('BEGIN:VTODO', 'SUMMARY:x', 'END:VTODO')).notes).toHaveLength(1);
});
