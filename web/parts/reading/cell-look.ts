import type { CellStyle } from '../../../core/sheet/sheet.ts';

/** A cell's look as CSS. */
export function looksOf(style: CellStyle | undefined): Record<string, string> {
  if (!style) return {};
  const lines = [style.underline ? 'underline' : '', style.strike ? 'line-through' : ''].filter(Boolean);
  return {
    ...(style.bold ? { fontWeight: 'bold' } : {}),
    ...(style.italic ? { fontStyle: 'italic' } : {}),
    ...(lines.length > 0 ? { textDecoration: lines.join(' ') } : {}),
    ...(style.color ? { color: style.color } : {}),
    ...(style.fill ? { backgroundColor: style.fill } : {}),
    ...(style.align ? { textAlign: style.align } : {}),
    ...(style.wrap ? { whiteSpace: 'pre-wrap' } : {}),
  };
}
