import { expect, test } from 'vitest';
import { LINK_FORM, linkFormFault, linkTextOf, renewedLinkText } from './link-text.ts';

test('a link to a document says its title, format and size', () => {
  expect(linkTextOf('Programme 2026', { path: 'files/programme.pdf', bytes: 340_000 })).toBe(
    'Programme 2026 (PDF, 340 kB)',
  );
});

test.each([
  [LINK_FORM, undefined],
  ['{title}', undefined],
  ['Download: {title} [{format} {size}]', undefined],
  ['{title} (size: {size})', 'in brackets'],
  ['{title}, {format}, {size}', 'in brackets'],
  ['{format}, {size}', 'Put {title}'],
  ['{title} ({type}, {size})', '“{type}” can’t be filled in'],
])('a form “%s” can be used, or is told why not', (form, why) => {
  if (why === undefined) expect(linkFormFault(form)).toBeUndefined();
  else expect(linkFormFault(form)).toContain(why);
});

test('a form is filled in as it stands, whatever a title holds', () => {
  const file = { path: 'a.docx', bytes: 2_000_000 };
  expect(linkTextOf('{size} $& of {format}', file, '{title} [{format} {size}]')).toBe(
    '{size} $& of {format} [DOCX 2.0 MB]',
  );
});

const file = { path: 'a.pdf', bytes: 1_230_000 };
test.each<[string, string | undefined]>([
  ['Programme (PDF, 340 kB)', 'Programme (PDF, 1.2 MB)'],
  ['Programme [pdf; 340KB], to print', 'Programme [pdf; 1.2MB], to print'],
  ['Programm (PDF 0,3 MB)', 'Programm (PDF 1,2 MB)'],
  ['Programme (DOCX, 1.2 MB)', 'Programme (PDF, 1.2 MB)'],
  ['programme (docx, 9 kB)', 'programme (pdf, 1.2 MB)'],
  // Right as far as they tell it.
  ['Programme (PDF, 1.2 MB)', undefined],
  ['Programme (PDF, 1.23 MB)', undefined],
  ['Programme (PDF, 1 MB)', undefined],
  ['Programme (PDF, 1201 KB)', undefined],
  // They tell neither.
  ['Programme', undefined],
  ['Programme (PDF)', undefined],
  ['Programme (page 340 B)', undefined],
  ['Room (B12, 3 MB)', undefined],
])('“%s” becomes “%s”', (text, now) => {
  expect(renewedLinkText(text, file)).toBe(now);
});

test('small files, and signs that mean something in a replacement', () => {
  expect(renewedLinkText('Cost: $& (CSV, 9 kB)', { path: 'b.csv', bytes: 295 })).toBe(
    'Cost: $& (CSV, 295 B)',
  );
  expect(renewedLinkText('Kb (CSV, 9 KB)', { path: 'b.csv', bytes: 12_300 })).toBe('Kb (CSV, 12 KB)');
});
