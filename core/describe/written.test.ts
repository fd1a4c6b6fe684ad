import { expect, test } from 'vitest';
import { NO_WORDS } from './fields.ts';
import { writtenInWords } from './written.ts';

const words = { ...NO_WORDS, alt: 'The dome\nat dusk', title: 'Dusk', tags: ['dome', 'dusk'] };

test('a new file gets all that is there', () => {
  expect(writtenInWords(words)).toBe('Alt text “The dome at dusk”, Title “Dusk”, Tags “dome, dusk”');
  expect(writtenInWords(NO_WORDS)).toBe('');
});
test('what a file says already is left out; what the record lacks is taken out, and told', () => {
  expect(writtenInWords(words, { title: 'Dusk', caption: 'Old', tags: ['dome'] })).toBe(
    'Alt text “The dome at dusk”, Tags “dome, dusk”; taken out: Caption',
  );
  expect(writtenInWords({ ...NO_WORDS }, { caption: 'Old' })).toBe('taken out: Caption');
});
test('long texts are cut', () => {
  expect(writtenInWords({ ...NO_WORDS, alt: 'x'.repeat(100) })).toBe(`Alt text “${'x'.repeat(59)}…”`);
});
