/** A row of the contact sheet: the images from `start` to before `end`, all of one height. */
export interface Row {
  start: number;
  end: number;
  /** Height of the images in CSS pixels. */
  height: number;
}

/** How a sheet is laid out, in CSS pixels. */
export interface Layout {
  /** Width of the sheet. */
  width: number;
  /** Height that rows should have. */
  wished: number;
  /** Between images. */
  gap: number;
  /** Least width of a place, so that a name can be read in it. */
  least: number;
}

/** Very wide or tall images count as 3:1 or 1:2, so that no row gets extreme. */
function shapeOf(aspect: number, { least, wished }: Layout): number {
  return Math.max(least / wished, Math.min(3, Math.max(0.5, aspect || 1)));
}

/** Width of a image's place in a row. */
export function placeWidth(aspect: number, row: Row, layout: Layout): number {
  return shapeOf(aspect, layout) * row.height;
}

/**
 * Lays images out in justified rows: each row fills the width, images keep their proportions. The last row keeps the
 * wished height. One walk over the images, so that a hundred thousand are laid out between two frames.
 *
 * @param aspect width / height of the image with this index
 * @param breaks indexes, ascending, at which a new row starts whatever came before
 */
export function justifiedRows(
  count: number,
  aspect: (index: number) => number,
  layout: Layout,
  breaks: readonly number[] = [],
): Row[] {
  const { width, wished, gap } = layout;
  const rows: Row[] = [];
  let section = 0;
  for (let start = 0; start < count;) {
    while (section < breaks.length && breaks[section]! <= start) section++;
    const most = Math.min(count, breaks[section] ?? count);
    let end = start;
    let sum = 0;
    let filled = false;
    while (end < most && !filled) {
      const next = sum + shapeOf(aspect(end), layout);
      const heightWith = (width - gap * (end - start)) / next;
      if (end > start && heightWith < wished) {
        filled = true;
        // Without this image, if the row's height is nearer to the wished one then.
        const heightWithout = (width - gap * (end - start - 1)) / sum;
        if (wished - heightWith > heightWithout - wished) break;
      }
      sum = next;
      end++;
    }
    const full = (width - gap * (end - start - 1)) / sum;
    rows.push({ start, end, height: filled ? full : Math.min(wished, full) });
    start = end;
  }
  return rows;
}

/** Index of the row that holds an image. */
export function rowOf(rows: readonly Row[], index: number): number {
  let [low, high] = [0, rows.length - 1];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (rows[middle]!.end <= index) low = middle + 1;
    else high = middle;
  }
  return low;
}
