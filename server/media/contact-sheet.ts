import { createWriteStream } from 'node:fs';
import { finished } from 'node:stream/promises';
import sharp from 'sharp';
import { A4 } from '../../core/print/print-document.ts';
import { INK, known, newPdf, numberPages, type Pdf, type Structure } from './pdf-base.ts';

/** An item on a contact sheet. */
export interface SheetEntry {
  /** A small image of it; null: there is none. */
  image: string | null;
  name: string;
  alt: string;
  /** What is said below the name, a line each; long ones are cut off. */
  lines: readonly string[];
}
export interface ContactSheet {
  title: string;
  language: string;
  /** ISO 8601: when the file says that it was made. */
  at: string;
  entries: readonly SheetEntry[];
  /** The file that is written. */
  to: string;
}

const MARGIN = 36;
const COLUMNS = 4;
const GAP = 12;
const CELL = (A4.width - 2 * MARGIN - (COLUMNS - 1) * GAP) / COLUMNS;
const PICTURE = CELL * 0.75;
const NAME = 8;
const SMALL = 7;
const LINES = 5;
const ROW = PICTURE + 4 + NAME * 1.4 + LINES * SMALL * 1.4 + GAP;
const BELOW = '#55534d';

/** Writes a contact sheet: images with their names and what is said of them, in rows, as a tagged PDF. Answers the signs that its font doesn’t have. */
export async function writeContactSheet(
  { title, language, at, entries, to }: ContactSheet,
  progress: (share: number) => void = () => {},
): Promise<string[]> {
  const pdf = newPdf({ title, language, at: new Date(at) }, { ...A4, margin: MARGIN });
  const out = pdf.pipe(createWriteStream(to, { mode: 0o600 }));
  const missing = new Set<string>();
  const root = pdf.struct('Document');
  pdf.addStructure(root);
  root.add(
    pdf.struct('H1', {}, [
      () =>
        void pdf
          .font('bold')
          .fontSize(15)
          .fillColor(INK)
          .text(known(pdf, title, missing), MARGIN, MARGIN),
    ]),
  );
  let top = pdf.y + GAP;
  for (const [order, entry] of entries.entries()) {
    const column = order % COLUMNS;
    if (column === 0 && order > 0) top += ROW;
    if (column === 0 && top + ROW > A4.height - MARGIN) {
      pdf.addPage();
      top = MARGIN;
    }
    const left = MARGIN + column * (CELL + GAP);
    const part = pdf.struct('Sect');
    root.add(part);
    await picture(pdf, part, entry, left, top, missing);
    words(pdf, part, entry, left, top + PICTURE + 4, missing);
    part.end();
    progress((order + 1) / entries.length);
  }
  root.end();
  numberPages(pdf);
  pdf.end();
  await finished(out);
  return [...missing];
}

async function picture(
  pdf: Pdf,
  part: Structure,
  { image, alt, name }: SheetEntry,
  left: number,
  top: number,
  missing: Set<string>,
): Promise<void> {
  const bytes =
    image === null
      ? undefined
      : await sharp(image).flatten({ background: '#ffffff' }).jpeg({ quality: 85 }).toBuffer();
  const draw = () => {
    if (bytes) pdf.image(bytes, left, top, { fit: [CELL, PICTURE], align: 'center', valign: 'center' });
    else {
      pdf.rect(left, top, CELL, PICTURE).lineWidth(0.5).stroke('#9a978f');
      const ending = name.includes('.') ? name.slice(name.lastIndexOf('.') + 1).toUpperCase() : '';
      pdf
        .font('bold')
        .fontSize(11)
        .fillColor(BELOW)
        .text(known(pdf, ending, missing), left, top + PICTURE / 2 - 8, {
          width: CELL,
          align: 'center',
          height: 16,
        });
    }
  };
  part.add(pdf.struct('Figure', { alt: alt || name }, [draw]));
}

function words(
  pdf: Pdf,
  part: Structure,
  { name, lines }: SheetEntry,
  left: number,
  top: number,
  missing: Set<string>,
): void {
  let y = top;
  const bottom = top + NAME * 1.4 + LINES * SMALL * 1.4;
  const line = (text: string, size: number, font: 'bold' | 'plain', most: number) => {
    if (text === '' || y + size > bottom) return;
    const height = Math.min(most * size * 1.4, bottom - y);
    part.add(
      pdf.struct('P', {}, [
        () => {
          pdf
            .font(font)
            .fontSize(size)
            .fillColor(font === 'bold' ? INK : BELOW);
          const said = known(pdf, text, missing);
          const needed = Math.min(height, pdf.heightOfString(said, { width: CELL }));
          pdf.text(said, left, y, { width: CELL, height, ellipsis: true });
          y += needed + 1;
        },
      ]),
    );
  };
  line(name, NAME, 'bold', 1);
  for (const text of lines) line(text, SMALL, 'plain', 2);
}
