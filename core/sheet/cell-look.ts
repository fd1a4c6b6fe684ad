import type { Cell } from './sheet.ts';

/** How a cell looks, as CSS; numbers stand at the right, as nobody has said otherwise. */
export function lookOf(cell: Cell | undefined): Record<string, string> {
  const style = cell?.style ?? {};
  const lines = [style.underline ? 'underline' : '', style.strike ? 'line-through' : ''].filter(Boolean);
  const align = style.align ?? (cell?.kind === 'number' ? 'right' : undefined);
  return {
    ...(style.bold ? { 'font-weight': 'bold' } : {}),
    ...(style.italic ? { 'font-style': 'italic' } : {}),
    ...(lines.length > 0 ? { 'text-decoration': lines.join(' ') } : {}),
    ...(style.color ? { color: style.color } : {}),
    ...(style.fill ? { 'background-color': style.fill } : {}),
    ...(align ? { 'text-align': align } : {}),
    ...(style.wrap ? { 'white-space': 'pre-wrap' } : {}),
  };
}
