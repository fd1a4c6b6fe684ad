/** A side of something, in CSS pixels. */
interface Sides {
  width: number;
  height: number;
}

/** Draws an image into a canvas of its own size; left of a column stands what it was before. */
export function drawSplit(
  into: HTMLCanvasElement,
  after: ImageBitmap,
  before?: ImageBitmap,
  column = 0,
): void {
  // Setting it clears it and takes its room anew, even where it stays as it is.
  if (into.width !== after.width) into.width = after.width;
  if (into.height !== after.height) into.height = after.height;
  const context = into.getContext('2d')!;
  context.globalCompositeOperation = 'copy';
  context.drawImage(after, 0, 0);
  context.globalCompositeOperation = 'source-over';
  if (before && column > 0) context.drawImage(before, 0, 0, column, after.height, 0, 0, column, after.height);
}

/** Draws an image out of focus, so large that it fills a frame: half as fine as it is shown, as nothing of it is sharp. */
export function drawBlurred(into: HTMLCanvasElement, image: ImageBitmap, shown: Sides, frame: Sides): void {
  into.width = Math.max(1, Math.round(frame.width / 2));
  into.height = Math.max(1, Math.round(frame.height / 2));
  const fill = Math.max(frame.width / shown.width, frame.height / shown.height);
  const [wide, high] = [(shown.width * fill) / 2, (shown.height * fill) / 2];
  const context = into.getContext('2d')!;
  context.filter = `blur(${Math.max(1, Math.max(into.width, into.height) / 30)}px)`;
  context.drawImage(image, (into.width - wide) / 2, (into.height - high) / 2, wide, high);
}
