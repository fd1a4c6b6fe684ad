import { FIELD_NAMES, TEXT_FIELD_KEYS, type Words } from './fields.ts';

/** Characters of each text that are shown. */
const SHOWN = 60;

/**
 * In words, what a file gets when a record's words are written into it: 'Alt text “The dome”, Tags “dome, dusk”; taken out:
 * Caption'. Texts that it carries already are left out.
 * @param carried what the file says now; nothing for a new file beside it
 */
export function writtenInWords(words: Words, carried: Partial<Words> = {}): string {
  const put: string[] = [];
  const out: string[] = [];
  const tell = (field: keyof typeof FIELD_NAMES, text: string, before: string) => {
    if (text === before) return;
    const shown = text.length > SHOWN ? `${text.slice(0, SHOWN - 1)}…` : text;
    if (text === '') out.push(FIELD_NAMES[field]);
    else put.push(`${FIELD_NAMES[field]} “${shown}”`);
  };
  for (const field of TEXT_FIELD_KEYS) tell(field, words[field].replace(/\n/g, ' '), carried[field] ?? '');
  tell('tags', words.tags.join(', '), (carried.tags ?? []).join(', '));
  return [put.join(', '), out.length > 0 ? `taken out: ${out.join(', ')}` : ''].filter(Boolean).join('; ');
}
