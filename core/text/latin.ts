/**
 * A text without the marks on its Latin letters ('é' -> 'e'). In other scripts marks are vowels, or make another letter of one: they stay.
 * Composed (NFC).
 */
export function withoutLatinMarks(text: string): string {
  return text
    .normalize('NFD')
    .replace(/(\p{Script=Latin})\p{M}+/gu, '$1')
    .normalize('NFC');
}
