import { renderAsync } from 'docx-preview';

/** Draws a text document of WordprocessingML (ECMA-376); what in it is HTML is left out, as it could run. */
export async function drawWord(bytes: ArrayBuffer, into: HTMLElement): Promise<void> {
  await renderAsync(bytes, into, into, {
    className: 'word',
    inWrapper: true,
    ignoreFonts: true,
    breakPages: true,
    useBase64URL: true,
    renderAltChunks: false,
    renderChanges: false,
    renderComments: false,
    experimental: false,
  });
  for (const style of into.querySelectorAll('style'))
    style.textContent = style.textContent.replace(/[\uf000-\uf0ff]/g, (sign) => BULLETS[sign] ?? '•');
  // Images that lie outside of the document are not loaded.
  for (const image of into.querySelectorAll('img'))
    if (!/^data:/.test(image.getAttribute('src') ?? ''))
      image.replaceWith(`[${image.alt || 'image outside the document'}]`);
}

/** Bullets that fonts of symbols have where Unicode has none. */
const BULLETS: Readonly<Record<string, string>> = {
  '\uf0b7': '•',
  '\uf0a7': '▪',
  '\uf0d8': '➢',
  '\uf0fc': '✓',
  '\uf076': '❖',
  '\uf0a8': '☐',
  '\uf0fe': '☒',
};
