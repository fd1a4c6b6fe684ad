/**
 * The texts of a record: what each is called, how long it may be, how it is written, where the store keeps it, and under
 * which names a file carries it (IPTC Photo Metadata Standard 2023.2: XMP, then IPTC IIM, then EXIF; the first is trusted most).
 */
export interface FieldKind {
  name: string;
  /** Characters. */
  longest: number;
  /** 'moment': ISO 8601 day, or day and time; 'day': a day; 'language': a language tag (BCP 47). */
  form: 'lines' | 'line' | 'day' | 'moment' | 'language';
  column: string;
  /** Names in a file, group and tag, as the metadata reader gives them. */
  reads: readonly string[];
  /** Names that are written when the person puts the record into the file; the same in a sidecar, when they are XMP. */
  writes: readonly string[];
}

export const TEXT_FIELDS = {
  alt: {
    name: 'Alt text',
    longest: 2000,
    form: 'lines',
    column: 'alt',
    reads: ['XMP-iptcCore:AltTextAccessibility'],
    writes: ['XMP-iptcCore:AltTextAccessibility'],
  },
  longDescription: {
    name: 'Long description',
    longest: 20000,
    form: 'lines',
    column: 'long_description',
    reads: ['XMP-iptcCore:ExtDescrAccessibility'],
    writes: ['XMP-iptcCore:ExtDescrAccessibility'],
  },
  title: {
    name: 'Title',
    longest: 500,
    form: 'line',
    column: 'title',
    reads: [
      'XMP-dc:Title',
      'IPTC:ObjectName',
      'XMP-photoshop:Headline',
      'IPTC:Headline',
      'PDF:Title',
      'ItemList:Title',
      'Keys:Title',
      'ID3v2_4:Title',
      'ID3v2_3:Title',
      'Vorbis:Title',
    ],
    writes: ['XMP-dc:Title', 'IPTC:ObjectName'],
  },
  caption: {
    name: 'Caption',
    longest: 5000,
    form: 'lines',
    column: 'caption',
    reads: [
      'XMP-dc:Description',
      'IPTC:Caption-Abstract',
      'IFD0:ImageDescription',
      'PDF:Subject',
      'ItemList:Description',
      'Keys:Description',
    ],
    writes: ['XMP-dc:Description', 'IPTC:Caption-Abstract'],
  },
  description: {
    name: 'Description',
    longest: 20000,
    form: 'lines',
    column: 'description',
    reads: ['XMP-photoshop:Instructions', 'IPTC:SpecialInstructions'],
    writes: ['XMP-photoshop:Instructions', 'IPTC:SpecialInstructions'],
  },
  creator: {
    name: 'Creator',
    longest: 500,
    form: 'line',
    column: 'creator',
    reads: [
      'XMP-dc:Creator',
      'IPTC:By-line',
      'IFD0:Artist',
      'PDF:Author',
      'ItemList:Artist',
      'ID3v2_3:Artist',
      'ID3v2_4:Artist',
      'Vorbis:Artist',
    ],
    writes: ['XMP-dc:Creator', 'IPTC:By-line'],
  },
  credit: {
    name: 'Credit',
    longest: 500,
    form: 'line',
    column: 'credit',
    reads: ['XMP-photoshop:Credit', 'IPTC:Credit'],
    writes: ['XMP-photoshop:Credit', 'IPTC:Credit'],
  },
  copyright: {
    name: 'Copyright',
    longest: 500,
    form: 'line',
    column: 'copyright',
    reads: ['XMP-dc:Rights', 'IPTC:CopyrightNotice', 'IFD0:Copyright', 'ItemList:Copyright'],
    writes: ['XMP-dc:Rights', 'IPTC:CopyrightNotice'],
  },
  source: {
    name: 'Source',
    longest: 1000,
    form: 'line',
    column: 'source',
    reads: ['XMP-photoshop:Source', 'IPTC:Source'],
    writes: ['XMP-photoshop:Source', 'IPTC:Source'],
  },
  licence: {
    name: 'Licence',
    longest: 500,
    form: 'line',
    column: 'licence',
    reads: ['XMP-xmpRights:UsageTerms', 'XMP-cc:License', 'XMP-xmpRights:WebStatement'],
    writes: ['XMP-xmpRights:UsageTerms'],
  },
  licenceEnd: {
    name: 'Licence end',
    longest: 10,
    form: 'day',
    column: 'licence_end',
    reads: ['XMP-plus:LicenseEndDate'],
    writes: ['XMP-plus:LicenseEndDate'],
  },
  taken: {
    name: 'Date taken',
    longest: 19,
    form: 'moment',
    column: 'taken',
    reads: [
      'ExifIFD:DateTimeOriginal',
      'XMP-exif:DateTimeOriginal',
      'XMP-photoshop:DateCreated',
      'ExifIFD:CreateDate',
      'QuickTime:CreateDate',
    ],
    writes: ['XMP-photoshop:DateCreated'],
  },
  place: {
    name: 'Place',
    longest: 500,
    form: 'line',
    column: 'place',
    reads: ['XMP-iptcCore:Location', 'IPTC:Sub-location', 'XMP-photoshop:City', 'IPTC:City'],
    writes: ['XMP-iptcCore:Location', 'IPTC:Sub-location'],
  },
  language: {
    name: 'Language of the texts',
    longest: 35,
    form: 'language',
    column: 'language',
    reads: ['XMP-dc:Language'],
    writes: ['XMP-dc:Language'],
  },
} as const satisfies Record<string, FieldKind>;

export type TextField = keyof typeof TEXT_FIELDS;
export const TEXT_FIELD_KEYS = Object.keys(TEXT_FIELDS) as TextField[];

/** Names under which a file carries its tags. */
export const KEYWORD_NAMES = ['XMP-dc:Subject', 'IPTC:Keywords'] as const;

/** The texts of a record that a person writes. Empty string: not given. */
export interface Words extends Record<TextField, string> {
  /** True: the image says nothing that the text does not, so its alt text is empty on purpose. */
  decorative: boolean;
  tags: string[];
  /** Values of the site's own fields, by the field's name; none is empty. */
  own: Record<string, string>;
}

/** A record of which nothing is said yet. */
export const NO_WORDS: Words = {
  ...(Object.fromEntries(TEXT_FIELD_KEYS.map((key) => [key, ''])) as Record<TextField, string>),
  decorative: false,
  tags: [],
  own: {},
};

export const WORD_FIELDS = [...TEXT_FIELD_KEYS, 'decorative', 'tags', 'own'] as const;

export const FIELD_NAMES: Record<keyof Words, string> = {
  ...(Object.fromEntries(TEXT_FIELD_KEYS.map((key) => [key, TEXT_FIELDS[key].name])) as Record<
    TextField,
    string
  >),
  decorative: 'Decorative',
  tags: 'Tags',
  own: 'Own fields',
};

/** A field that a site has of its own. */
export const OWN_KINDS = ['text', 'choice', 'date', 'number'] as const;
export interface OwnField {
  name: string;
  kind: (typeof OWN_KINDS)[number];
  /** For 'choice'. */
  choices: readonly string[];
}

/** Why a text cannot be the value of an own field; undefined when it can. Empty is always right. */
export function ownFault(field: OwnField, value: string): string | undefined {
  if (value === '') return undefined;
  if (field.kind === 'choice' && !field.choices.includes(value))
    return `“${value}” isn’t an option of ${field.name}: ${field.choices.join(', ')}.`;
  if (field.kind === 'date' && !isDay(value))
    return `${field.name} needs a date like 2026-08-12, not “${value}”.`;
  if (field.kind === 'number' && !/^-?\d+(\.\d+)?$/.test(value))
    return `${field.name} needs a number like 12 or 3.5, not “${value}”.`;
  return undefined;
}

/** Why a text cannot stand in a field; undefined when it can. */
export function fieldFault(field: TextField, value: string): string | undefined {
  const { name, longest, form }: FieldKind = TEXT_FIELDS[field];
  if (value === '') return undefined;
  if (value.length > longest)
    return `${name} holds ${value.length.toLocaleString('en')} characters; the maximum is ${longest.toLocaleString('en')}.`;
  if (form === 'day' && !isDay(value)) return `${name} needs a date like 2026-08-12, not “${value}”.`;
  if (form === 'moment' && !isMoment(value))
    return `${name} needs a date or time like 2026-08-12T23:14, not “${value}”.`;
  if (form === 'language' && !isLanguage(value))
    return `${name} needs a language tag like en or de-CH, not “${value}”.`;
  return undefined;
}

/** ISO 8601, '2026-08-12', a day of the calendar. */
export function isDay(text: string): boolean {
  const parts = /^(\d{4})-(\d\d)-(\d\d)$/.exec(text);
  if (!parts) return false;
  const [year, month, day] = parts.slice(1).map(Number) as [number, number, number];
  const leap = (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0;
  const days = [31, leap ? 29 : 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];
  return month >= 1 && month <= 12 && day >= 1 && day <= days[month - 1]!;
}

/** A day, with or without a time to the minute or second. */
export function isMoment(text: string): boolean {
  const [day, time, ...more] = text.split('T');
  return (
    more.length === 0 &&
    isDay(day!) &&
    (time === undefined || /^([01]\d|2[0-3]):[0-5]\d(:[0-5]\d)?$/.test(time))
  );
}

/** A language tag: language, then script, region, variants (BCP 47, without extensions). */
export function isLanguage(text: string): boolean {
  return /^[a-z]{2,3}(-[a-z]{4})?(-([a-z]{2}|\d{3}))?(-([a-z0-9]{5,8}|\d[a-z0-9]{3}))*$/i.test(text);
}
