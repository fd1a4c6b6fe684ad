import type { ArchivedItem } from './records.ts';
import { siteFileAt } from './records.ts';

/** Items as linked data (JSON-LD 1.1), in terms of schema.org and of the IPTC Photo Metadata Standard. */

const CONTEXT = {
  '@vocab': 'https://schema.org/',
  iptc: 'http://iptc.org/std/Iptc4xmpCore/1.0/xmlns/',
  plus: 'http://ns.useplus.org/ldf/xmp/1.0/',
  xmpRights: 'http://ns.adobe.com/xap/1.0/rights/',
};

const TYPES: Readonly<Record<string, string>> = {
  image: 'ImageObject',
  video: 'VideoObject',
  audio: 'AudioObject',
  document: 'DigitalDocument',
};

/** What an item is called and what is said of it; what is empty is not said. @param path of its file, percent-encoded */
export function linkedItem(item: ArchivedItem, encode: (path: string) => string): Record<string, unknown> {
  const said: Record<string, unknown> = {
    '@id': encode(siteFileAt(item.path)),
    '@type': TYPES[item.kind] ?? 'MediaObject',
    identifier: item.id,
    name: item.title || item.name,
    caption: item.caption,
    description: item.description,
    'iptc:AltTextAccessibility': item.decorative ? '' : item.alt,
    'iptc:ExtDescrAccessibility': item.longDescription,
    creator: item.creator && { '@type': 'Person', name: item.creator },
    creditText: item.credit,
    copyrightNotice: item.copyright,
    isBasedOn: item.source,
    'xmpRights:UsageTerms': item.licence,
    'plus:LicenseEndDate': item.licenceEnd,
    dateCreated: item.taken,
    contentLocation: item.place && { '@type': 'Place', name: item.place },
    inLanguage: item.language,
    keywords: item.tags,
    encodingFormat: item.mime,
    contentSize: `${item.bytes} B`,
    sha256: item.sha256,
    width: item.width && pixels(item.width),
    height: item.height && pixels(item.height),
    duration: item.duration && `PT${item.duration}S`,
    uploadDate: item.addedAt,
  };
  return Object.fromEntries(
    Object.entries(said).filter(
      ([, value]) =>
        value !== '' && value !== null && value !== 0 && !(Array.isArray(value) && value.length === 0),
    ),
  );
}
const pixels = (value: number) => ({ '@type': 'QuantitativeValue', value, unitCode: 'E37' });

/** The document around the items: what comes before them, and after them. */
export const LINKED_START = `{"@context":${JSON.stringify(CONTEXT)},"@graph":[\n`;
export const LINKED_END = '\n]}\n';
export const LINKED_AT = 'data/records/items.jsonld';
