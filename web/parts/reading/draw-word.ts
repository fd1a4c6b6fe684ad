import { renderAsync } from 'docx-preview';

/** Draws a text document of WordprocessingML (ECMA-376); what in it is HTML is left out, as it could run. */
export const drawWord = (bytes: ArrayBuffer, into: HTMLElement): Promise<unknown> =>
  renderAsync(bytes, into, into, {
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
