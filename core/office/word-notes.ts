import { relationsOf, UnreadableOffice, type OfficePackage } from './package.ts';

/** Characters of a part that are looked at as a whole. */
const MOST_XML = 40_000_000;

/** What of a WordprocessingML document (ECMA-376) isn't shown, or not as it is, each as a sentence. @throws UnreadableOffice */
export function wordNotes(from: OfficePackage): string[] {
  const main = [...relationsOf(from, '').values()].find(({ type }) => type === 'officeDocument')?.target;
  if (main === undefined || !from.has(main)) throw new UnreadableOffice('It holds no text.');
  const text = from.text(main);
  if (text.length > MOST_XML)
    throw new UnreadableOffice(
      'Its text is too long to be shown here. Download it to open it in its own program.',
    );
  const related = [...relationsOf(from, main).values()].map(({ type }) => type);
  return [
    ...(/<w:(ins|del|moveFrom|moveTo) /.test(text)
      ? ['It holds tracked changes. It is shown as if all of them were accepted.']
      : []),
    ...(related.includes('comments') ? ['Comments aren’t shown here.'] : []),
    ...(/<w:altChunk\b/.test(text) ? ['Parts of it are kept in another form, and aren’t shown here.'] : []),
    ...(/<(w:object|c:chart|dgm:relIds)\b/.test(text)
      ? ['Charts and embedded objects aren’t shown here.']
      : []),
    ...(from.names.some((name) => /vbaProject\.bin$/i.test(name))
      ? ['It holds macros. They never run here.']
      : []),
  ];
}
