import anyAscii from 'any-ascii';
import type { Letters } from './pattern.ts';

/** How German writes its letters where there are none of them (DIN 5007-2 and usage). */
const GERMAN: Record<string, string> = { ä: 'ae', ö: 'oe', ü: 'ue', Ä: 'Ae', Ö: 'Oe', Ü: 'Ue', ẞ: 'SS' };

/** Letters and their marks that are not Latin. */
const OTHER_SCRIPT = /(?!\p{Script=Latin}|\p{Script=Inherited})[\p{L}\p{M}]/u;

/** A text in the letters that a name may have. Other scripts stay, unless they are to be written by their sound. */
export function inLetters(text: string, letters: Letters): string {
  if (letters === 'keep') return text.normalize('NFC');
  const composed = text.normalize('NFC');
  const german = letters === 'german' ? composed.replace(/[äöüÄÖÜẞ]/g, (char) => GERMAN[char]!) : composed;
  let plain = '';
  let before = '';
  for (const char of german) {
    const code = char.codePointAt(0)!;
    const stays = code < 128 || (letters !== 'ascii' && OTHER_SCRIPT.test(char));
    const written = stays ? char : anyAscii(char);
    // Where every letter is a word (北京 -> Bei Jing), a space stands between.
    const word = !stays && /\p{Script=Han}/u.test(char);
    plain += word && before !== '' && !/\s$/.test(plain) ? ` ${written}` : written;
    before = char;
  }
  return plain;
}
