import { TEXT_FIELDS, type TextField, type Words } from './fields.ts';

/** One change of a text field, the same for many records. */
export type Edit =
  | { edit: 'set'; text: string }
  /** Plain text, every occurrence; in any case unless `exact`. */
  | { edit: 'replace'; find: string; replace: string; exact: boolean }
  | { edit: 'before' | 'after'; text: string }
  | { edit: 'case'; to: 'lower' | 'upper' | 'sentence' | 'title' }
  /** From another field: over what stands there, only where nothing stands, or behind it. */
  | { edit: 'copy'; from: TextField; how: 'over' | 'empty' | 'behind' };

/** What a field says after an edit; undefined when it stays as it is. */
export function edited(words: Words, field: TextField, edit: Edit): string | undefined {
  const now = words[field];
  const next = apply(words, now, edit).trim();
  return next === now ? undefined : next;
}

function apply(words: Words, now: string, edit: Edit): string {
  switch (edit.edit) {
    case 'set':
      return edit.text;
    case 'replace': {
      if (edit.find === '') return now;
      const escaped = edit.find.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
      return now.replace(new RegExp(escaped, edit.exact ? 'gu' : 'giu'), () => edit.replace);
    }
    // Nothing is put before or behind nothing: a lonely “, Corvane Hill” says less than an empty field.
    case 'before':
      return now === '' ? now : edit.text + now;
    case 'after':
      return now === '' ? now : now + edit.text;
    case 'case':
      return inCase(now, edit.to);
    case 'copy': {
      const other = words[edit.from];
      if (other === '') return now;
      if (edit.how === 'over' || now === '') return other;
      return edit.how === 'empty' ? now : `${now} ${other}`;
    }
  }
}

function inCase(text: string, to: 'lower' | 'upper' | 'sentence' | 'title'): string {
  switch (to) {
    case 'lower':
      return text.toLowerCase();
    case 'upper':
      return text.toUpperCase();
    case 'sentence':
      return text
        .toLowerCase()
        .replace(
          /(^|[.!?]\s+)(\p{L})/gu,
          (_, before: string, letter: string) => before + letter.toUpperCase(),
        );
    case 'title':
      return text.toLowerCase().replace(/(?<![\p{L}\p{N}'’])\p{L}/gu, (letter) => letter.toUpperCase());
  }
}

/** An edit in few words: 'replace “Moon” in title'. */
export function editInWords(field: TextField, edit: Edit): string {
  const name = TEXT_FIELDS[field].name.toLowerCase();
  switch (edit.edit) {
    case 'set':
      return `Set ${name}`;
    case 'replace':
      return `Replace “${edit.find}” in ${name}`;
    case 'before':
    case 'after':
      return `Put “${edit.text.trim()}” ${edit.edit === 'before' ? 'before' : 'behind'} ${name}`;
    case 'case':
      return `Change the case of ${name}`;
    case 'copy':
      return `Copy ${TEXT_FIELDS[edit.from].name.toLowerCase()} to ${name}`;
  }
}
