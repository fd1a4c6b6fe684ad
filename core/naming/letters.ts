import anyAscii from 'any-ascii';
import type { Letters } from './pattern.ts';

/** How German writes its letters where there are none of them (DIN 5007-2 and usage). */
const GERMAN: Record<string, string> = { ä: 'ae', ö: 'oe', ü: 'ue', Ä: 'Ae', Ö: 'Oe', Ü: 'Ue', ẞ: 'SS' };

/** A text in the letters that a name may have. Of other scripts each letter is written by its sound. */
export function inLetters(text: string, letters: Letters): string {
  if (letters === 'keep') return text.normalize('NFC');
  const composed = text.normalize('NFC');
  const german = letters === 'german' ? composed.replace(/[äöüÄÖÜẞ]/g, (char) => GERMAN[char]!) : composed;
  let plain = '';
  let before = '';
  for (const char of german) {
    const code = char.codePointAt(0)!;
    const written = code < 128 ? char : anyAscii(char);
    // Where every letter is a word (北京 -> Bei Jing), a space stands between.
    const word = code > 127 && /\p{Script=Han}/u.test(char);
    plain += word && before !== '' && !/\s$/.test(plain) ? ` ${written}` : written;
    before = char;
  }
  return plain;
}
