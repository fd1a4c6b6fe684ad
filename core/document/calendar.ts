import { element, escapeHtml, type Paper } from '../office/paper.ts';

interface Line {
  name: string;
  parameters: Readonly<Record<string, string>>;
  value: string;
}
interface Event {
  lines: Line[];
}

/** Events that are shown at most. */
const MOST_EVENTS = 5000;
const MONTHS = 'January February March April May June July August September October November December'.split(
  ' ',
);
const OFTEN: Readonly<Record<string, string>> = {
  DAILY: 'every day',
  WEEKLY: 'every week',
  MONTHLY: 'every month',
  YEARLY: 'every year',
};

/** A calendar (iCalendar, RFC 5545) as a list of its events, in the order of their dates. */
export function readCalendar(text: string): Paper {
  const events: Event[] = [];
  let open: Event | undefined;
  let name = '';
  for (const line of linesOf(text)) {
    if (line.name === 'BEGIN' && line.value.toUpperCase() === 'VEVENT') open = { lines: [] };
    else if (line.name === 'END' && line.value.toUpperCase() === 'VEVENT') {
      if (open) events.push(open);
      open = undefined;
    } else if (open) open.lines.push(line);
    else if (line.name === 'X-WR-CALNAME' || line.name === 'NAME') name = plain(line.value);
  }
  const begins = (event: Event) => valueOf(event, 'DTSTART')?.value ?? '';
  const shown = events.sort((one, other) => (begins(one) < begins(other) ? -1 : 1)).slice(0, MOST_EVENTS);
  const html = shown.map(
    (event) =>
      `<h2>${escapeHtml(said(event, 'SUMMARY') || 'An event without a title')}</h2>${[
        whenOf(event),
        said(event, 'LOCATION'),
        repeats(event),
        said(event, 'STATUS').toUpperCase() === 'CANCELLED' ? 'Cancelled' : '',
      ]
        .filter(Boolean)
        .map((words) => element('p', {}, escapeHtml(words)))
        .join('')}${said(event, 'DESCRIPTION')
        .split('\n')
        .filter((line) => line.trim() !== '')
        .map((line) => element('p', {}, escapeHtml(line)))
        .join('')}`,
  );
  return {
    html: `<article>${name ? element('h1', {}, escapeHtml(name)) : ''}${html.join('') || '<p>It holds no events.</p>'}</article>`,
    notes: [
      ...(events.length > MOST_EVENTS ? ['Only its first 5,000 events are shown.'] : []),
      ...(/^BEGIN:(VTODO|VJOURNAL)/im.test(text) ? ['Tasks and journal entries aren’t shown here.'] : []),
    ],
  };
}

/** Lines that were folded are one again (RFC 5545, 3.1). */
function* linesOf(text: string): Generator<Line> {
  for (const line of text.replace(/\r?\n[ \t]/g, '').split(/\r?\n/)) {
    const colon = valueAt(line);
    if (colon < 0) continue;
    const [name, ...parameters] = line.slice(0, colon).split(';');
    yield {
      name: name!.toUpperCase(),
      parameters: Object.fromEntries(
        parameters.map((one) => {
          const [key = '', value = ''] = one.split('=');
          return [key.toUpperCase(), value.replace(/"/g, '')];
        }),
      ),
      value: line.slice(colon + 1),
    };
  }
}
/** The colon before the value: one within quotes belongs to a parameter. */
function valueAt(line: string): number {
  let quoted = false;
  for (let at = 0; at < line.length; at++) {
    if (line[at] === '"') quoted = !quoted;
    else if (line[at] === ':' && !quoted) return at;
  }
  return -1;
}

const valueOf = ({ lines }: Event, name: string) => lines.find((line) => line.name === name);
/** Text without its escapes (RFC 5545, 3.3.11). */
const plain = (value: string) =>
  value.replace(/\\([nN,;\\])/g, (_whole, sign: string) => (sign.toLowerCase() === 'n' ? '\n' : sign)).trim();
const said = (event: Event, name: string) => plain(valueOf(event, name)?.value ?? '');

interface Moment {
  date: string;
  time: string;
  zone: string;
}
function momentOf(line: Line | undefined): Moment | undefined {
  const found = /^(\d{4})(\d\d)(\d\d)(?:T(\d\d)(\d\d)\d\d(Z?))?$/.exec(line?.value.trim() ?? '');
  if (!found) return undefined;
  const [, year, month, day, hour, minute, utc] = found;
  const zone = utc ? 'UTC' : (line?.parameters['TZID'] ?? '');
  return {
    date: `${Number(day)} ${MONTHS[Number(month) - 1] ?? month} ${year}`,
    time: hour === undefined ? '' : `${hour}:${minute}`,
    zone: hour === undefined ? '' : zone.replace(/_/g, ' '),
  };
}

/** When it is: one day, a time of a day, or from one to another. */
function whenOf(event: Event): string {
  const start = momentOf(valueOf(event, 'DTSTART'));
  const end = momentOf(valueOf(event, 'DTEND'));
  if (!start) return '';
  const zone = start.zone === '' ? '' : ` (${start.zone})`;
  if (start.time === '') {
    const last = dayBefore(valueOf(event, 'DTEND')?.value ?? '');
    return last && last !== start.date ? `${start.date} to ${last}` : start.date;
  }
  const from = `${start.date}, ${start.time}`;
  if (!end || end.time === '') return `${from}${zone}`;
  return end.date === start.date
    ? `${from} to ${end.time}${zone}`
    : `${from} to ${end.date}, ${end.time}${zone}`;
}
/** The end of whole days is the day after the last of them (RFC 5545, 3.6.1). */
function dayBefore(value: string): string | undefined {
  const found = /^(\d{4})(\d\d)(\d\d)$/.exec(value.trim());
  if (!found) return undefined;
  let [year, month, day] = [Number(found[1]), Number(found[2]), Number(found[3]) - 1];
  if (day === 0) {
    month = month === 1 ? 12 : month - 1;
    if (month === 12) year--;
    const leap = (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0;
    day = month === 2 ? (leap ? 29 : 28) : [4, 6, 9, 11].includes(month) ? 30 : 31;
  }
  return `${day} ${MONTHS[month - 1]} ${year}`;
}
function repeats(event: Event): string {
  const often = /FREQ=(\w+)/i.exec(valueOf(event, 'RRULE')?.value ?? '')?.[1];
  return often === undefined ? '' : `Repeats ${OFTEN[often.toUpperCase()] ?? 'by a rule of its own'}`;
}
