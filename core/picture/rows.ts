/** A picture's place in a row of the contact sheet. */
export interface Placed {
  /** Index into the given pictures. */
  index: number;
  width: number;
}

export interface Row {
  places: Placed[];
  /** Height of the pictures in CSS pixels. */
  height: number;
}

/**
 * Lays pictures out in justified rows: each row fills the width, pictures keep their proportions.
 * The last row keeps the wished height. Very wide or tall pictures count as 3:1 or 1:2, so that no row gets extreme.
 *
 * @param aspects width / height of each picture
 * @param width of the sheet in CSS pixels
 * @param wished height of a row in CSS pixels
 * @param gap between pictures in CSS pixels
 * @param least width of a place, so that its name can be read
 */
export function justifiedRows(
  aspects: readonly number[],
  width: number,
  wished: number,
  gap: number,
  least = 0,
): Row[] {
  const rows: Row[] = [];
  let start = 0;
  const natural = (index: number) =>
    Math.max(least / wished, Math.min(3, Math.max(0.5, aspects[index] || 1)));
  while (start < aspects.length) {
    let end = start;
    let sum = 0;
    let filled = false;
    while (end < aspects.length && !filled) {
      const next = sum + natural(end);
      // Take one more picture if that brings the row's height nearer to the wished one.
      const gaps = gap * (end - start);
      const heightWith = (width - gaps) / next;
      if (end > start && heightWith < wished) {
        const heightWithout = (width - gap * (end - start - 1)) / sum;
        if (wished - heightWith > heightWithout - wished) {
          filled = true;
          break;
        }
        sum = next;
        end++;
        filled = true;
        break;
      }
      sum = next;
      end++;
    }
    const gaps = gap * (end - start - 1);
    const height = filled ? (width - gaps) / sum : Math.min(wished, (width - gaps) / sum);
    rows.push({
      height,
      places: Array.from({ length: end - start }, (_, i) => ({
        index: start + i,
        width: natural(start + i) * height,
      })),
    });
    start = end;
  }
  return rows;
}
