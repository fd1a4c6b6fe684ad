import { fileURLToPath } from 'node:url';
import PDFDocument from 'pdfkit';

export type Pdf = InstanceType<typeof PDFDocument>;
export type Structure = ReturnType<Pdf['struct']>;

const fontFile = (name: string) =>
  fileURLToPath(import.meta.resolve(`@expo-google-fonts/noto-sans/${name}/NotoSans_${name}.ttf`));
const FONTS = {
  plain: '400Regular',
  bold: '700Bold',
  italic: '400Regular_Italic',
  both: '700Bold_Italic',
} as const;
export type Font = keyof typeof FONTS;
export const INK = '#1c1c1c';

/**
 * A tagged PDF (ISO 32000-1, 14.8) with nothing in it yet.
 * @param page in points of 1/72 inch
 * @param at moment that the file says it was made
 */
export function newPdf(
  { title, language, at }: { title: string; language: string; at: Date },
  { width, height, margin }: { width: number; height: number; margin: number },
): Pdf {
  const pdf = new PDFDocument({
    size: [width, height],
    margin,
    pdfVersion: '1.7',
    tagged: true,
    ...(language === '' ? {} : { lang: language }),
    displayTitle: true,
    bufferPages: true,
    info: { Title: title, CreationDate: at, ModDate: at },
  });
  for (const [name, file] of Object.entries(FONTS)) pdf.registerFont(name, fontFile(file));
  return pdf;
}

/** A text without what the font that is chosen has no sign for. @param missing gets these signs */
export function known(pdf: Pdf, text: string, missing: Set<string>): string {
  const { font } = (pdf as unknown as { _font: { font: { hasGlyphForCodePoint(code: number): boolean } } })
    ._font;
  return [...text]
    .filter((sign) => {
      if (/\s/.test(sign) || font.hasGlyphForCodePoint(sign.codePointAt(0)!)) return true;
      missing.add(sign);
      return false;
    })
    .join('')
    .replaceAll('\t', '    ');
}

/** Numbers the pages of a PDF of more than one. */
export function numberPages(pdf: Pdf): void {
  const { start, count } = pdf.bufferedPageRange();
  for (let at = 0; count > 1 && at < count; at++) {
    pdf.switchToPage(start + at);
    const { width, height, margins } = pdf.page;
    const { bottom } = margins;
    // Text below the margin would begin another page.
    margins.bottom = 0;
    pdf.markContent('Artifact', { type: 'Pagination' });
    pdf
      .font('plain')
      .fontSize(8.5)
      .fillColor(INK)
      .text(`${at + 1} / ${count}`, margins.left, height - bottom + 18, {
        width: width - margins.left - margins.right,
        align: 'center',
        lineBreak: false,
      });
    pdf.endMarkedContent();
    margins.bottom = bottom;
  }
}
