import {
  fieldFault,
  KEYWORD_NAMES,
  TEXT_FIELD_KEYS,
  TEXT_FIELDS,
  type FieldKind,
  type Words,
} from './fields.ts';
import { cleanTag } from './record.ts';

/** What a file says of itself. Words are plain text; only those that are given. */
export interface Metadata {
  words: Partial<Words>;
  /** When it was taken, ISO 8601 in local time ('2026-08-12T23:14:05'), or null. */
  takenAt: string | null;
  colourProfile: string | null;
  /** Pixels, upright, of images; null: it does not say. */
  size: { width: number; height: number } | null;
  /** It says where it was taken; it names a device's serial number or owner. */
  place: boolean;
  device: boolean;
}

/** Tags by group and name ('XMP-dc:Title'), as a metadata reader gives them. */
export type Tags = Readonly<Record<string, unknown>>;

/** What cameras and programs write where a caption belongs. */
const BOILERPLATE =
  /^(olympus digital camera|sony dsc|minolta digital camera|konica minolta digital camera|exif[_ ]jpeg[_ ]picture|digital camera|samsung|default|image|untitled|my beautiful picture|<.*digimax.*>|dcim\\.*|dji.*|dav|cof|sdr|hdr|mde|oznor\w*|rhdr|ptr|btf?|edf|dcf|screenshot|processed with .*|created with .*|microsoft word - .*|powerpoint presentation|presentation\d*|document\d*|unbenannt)$/i;

/** The file's own words and facts in the record's fields. */
export function metadataOf(tags: Tags): Metadata {
  const unmarked = tags['IPTC:CodedCharacterSet'] === undefined;
  const read = (name: string): string => {
    const text = plainText(tags[name]);
    return name.startsWith('IPTC:') && unmarked ? utf8IfValid(text) : text;
  };
  const words: Partial<Words> = {};
  for (const field of TEXT_FIELD_KEYS) {
    const { reads, longest, form }: FieldKind = TEXT_FIELDS[field];
    for (const name of reads) {
      const text =
        form === 'day' || form === 'moment' ? dated(tags[name], form) : read(name).slice(0, longest);
      if (text === '' || BOILERPLATE.test(text) || fieldFault(field, text)) continue;
      words[field] = text;
      break;
    }
  }
  const keywords = KEYWORD_NAMES.flatMap((name) => {
    const value = tags[name];
    const all = Array.isArray(value) ? value : value === undefined ? [] : [value];
    return all.map((one) => {
      const text = plainText(one);
      return cleanTag(name.startsWith('IPTC:') && unmarked ? utf8IfValid(text) : text);
    });
  }).filter(Boolean);
  const unique = new Map(keywords.map((tag) => [tag.toLowerCase(), tag]));
  if (unique.size > 0) words.tags = [...unique.values()].slice(0, 200);
  const names = Object.keys(tags);
  const profile = plainText(tags['ICC_Profile:ProfileDescription']);
  return {
    words,
    takenAt: words.taken ?? null,
    colourProfile: profile || null,
    size: sizeOf(tags),
    place: names.some((name) => tellsPlace(name, tags[name])),
    device: names.some((name) => /:(\w*SerialNumber|OwnerName|CameraOwnerName)$/.test(name)),
  };
}

/** Tracks of a video that measure where it is while it is taken. */
const MEASURES = /^(gpmd|camm)$/;

/** Positions anywhere; what is called a location only in videos: in images that is a text for readers (IPTC). */
function tellsPlace(name: string, value: unknown): boolean {
  if (String(value).trim() === '') return false;
  return (
    /:\w*GPS(Latitude|Longitude|Position|Coordinates)/.test(name) ||
    /^(Keys|AudioKeys|VideoKeys|UserData|ItemList|Matroska|RIFF|QuickTime|Track\d+):\w*(Location|GPS)/i.test(
      name,
    ) ||
    (/^Track\d+:(Meta|Other)Format$/.test(name) && MEASURES.test(String(value)))
  );
}

/** Where formats say how many pixels they have, with the whole image before smaller ones inside. */
const SIZES = ['Photoshop:Image', 'Jpeg2000:Image', 'File:Image', 'ExifIFD:ExifImage', 'IFD0:Image'];

function sizeOf(tags: Tags): Metadata['size'] {
  const number = (name: string) => (typeof tags[name] === 'number' ? tags[name] : 0);
  const name = SIZES.find((one) => number(`${one}Width`) > 0 && number(`${one}Height`) > 0);
  if (name === undefined) return null;
  const [width, height] = [number(`${name}Width`), number(`${name}Height`)];
  // EXIF orientation 5 to 8, or the quarter turns of the HEIF family.
  const turned = number('IFD0:Orientation') >= 5 || [90, 270].includes(number('Meta:Rotation'));
  return turned ? { width: height, height: width } : { width, height };
}

/** Text of a tag, without control characters. Of texts in several languages, the default one. */
function plainText(value: unknown): string {
  if (Array.isArray(value)) return value.map(plainText).filter(Boolean).join(', ');
  if (typeof value !== 'string' && typeof value !== 'number') return '';
  return (
    String(value)
      .normalize('NFC')
      // eslint-disable-next-line no-control-regex
      .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f\u202a-\u202e\u2066-\u2069]/g, '')
      .trim()
  );
}

/** What windows-1252 has at 0x80 to 0x9f (WHATWG Encoding); 0: the control character itself. */
const WINDOWS = [
  0x20ac, 0, 0x201a, 0x192, 0x201e, 0x2026, 0x2020, 0x2021, 0x2c6, 0x2030, 0x160, 0x2039, 0x152, 0, 0x17d, 0,
  0, 0x2018, 0x2019, 0x201c, 0x201d, 0x2022, 0x2013, 0x2014, 0x2dc, 0x2122, 0x161, 0x203a, 0x153, 0, 0x17e,
  0x178,
];

/** IPTC without a character set was read as Latin: when its bytes are valid UTF-8, they are that. */
function utf8IfValid(text: string): string {
  const bytes: number[] = [];
  for (const char of text) {
    const code = char.codePointAt(0)!;
    const high = WINDOWS.indexOf(code);
    if (code < 0x100) bytes.push(code);
    else if (high >= 0) bytes.push(0x80 + high);
    else return text;
  }
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(Uint8Array.from(bytes));
  } catch {
    return text; // Not UTF-8: then Latin it is.
  }
}

function dated(value: unknown, form: 'day' | 'moment'): string {
  const date = dateOf(value);
  return date === null ? '' : form === 'day' ? date.slice(0, 10) : date;
}

/** '2026:08:12 23:14:05+02:00' -> '2026-08-12T23:14:05'. Null for what is no date. */
function dateOf(value: unknown): string | null {
  if (typeof value !== 'string') return null;
  const parts = /^(\d{4})[:-](\d\d)[:-](\d\d)(?:[ T](\d\d):(\d\d)(?::(\d\d))?)?/.exec(value);
  if (!parts || parts[1] === '0000' || Number(parts[1]) < 1826 || Number(parts[2]) < 1) return null;
  const [, year, month, day, hour = '00', minute = '00', second = '00'] = parts;
  return `${year}-${month}-${day}T${hour}:${minute}:${second}`;
}
