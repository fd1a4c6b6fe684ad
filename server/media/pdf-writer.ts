import { isRun, runsIn, type PrintDocument, type PrintRun } from '../../core/print/print-document.ts';
import type { RichNode } from '../../core/document/rich.ts';
import { INK, known, newPdf, numberPages, type Font, type Pdf, type Structure } from './pdf-base.ts';

/** An image as a PDF can hold it. */
export interface PrintImage {
  bytes: Buffer;
  /** In pixels. */
  width: number;
  height: number;
}

const SIZE = 10.5;
const HEADINGS = [20, 15, 12.5, 11.5, 11, 10.5];
const LINK = '#1b5e8c';
const RULE = '#9a978f';
const INDENT = 18;
const GAP = 6;
const CELL = 4;

/**
 * A document as a tagged PDF (ISO 32000-1, 14.8), with its title and language, headings as its outline, and page numbers.
 * @param images by their `src`; those that are missing are told by their alt text
 * @param at moment that the file says it was made
 * @returns its bytes, and the signs that its font doesn't have
 */
export async function writePdf(
  { title, language, page, doc }: PrintDocument,
  images: ReadonlyMap<string, PrintImage>,
  at: Date,
): Promise<{ bytes: Buffer; missing: string[] }> {
  const writer = new Writer(title, language, page, images, at);
  for (const node of doc.content ?? []) writer.block(node, writer.root);
  return writer.end();
}

class Writer {
  readonly pdf: Pdf;
  readonly root: Structure;
  private readonly chunks: Buffer[] = [];
  private readonly missing = new Set<string>();
  private readonly outline: { level: number; item: PDFKit.PDFOutline }[] = [];
  private left: number;

  constructor(
    title: string,
    language: string,
    private readonly page: PrintDocument['page'],
    private readonly images: ReadonlyMap<string, PrintImage>,
    at: Date,
  ) {
    const { margin } = page;
    this.pdf = newPdf({ title, language, at }, page);
    this.pdf.on('data', (chunk: Buffer) => void this.chunks.push(chunk));
    this.left = margin;
    this.root = this.pdf.struct('Document');
    this.pdf.addStructure(this.root);
    this.outline.push({ level: 0, item: this.pdf.outline });
  }

  private get width(): number {
    return this.page.width - this.page.margin - this.left;
  }
  private get bottom(): number {
    return this.page.height - this.page.margin;
  }
  /** Begins a page where less than this is left of one. */
  private room(height: number): void {
    if (this.pdf.y + height > this.bottom) this.pdf.addPage();
  }

  block(node: RichNode, into: Structure): void {
    const level = Math.min(6, Math.max(1, Number(node.attrs?.['level'] ?? 1)));
    if (node.type === 'heading') this.heading(node, level, into);
    else if (node.type === 'bulletList' || node.type === 'orderedList') this.list(node, into);
    else if (node.type === 'table') this.table(node, into);
    else if (node.type === 'blockquote') this.indented(() => this.all(node, into, 'BlockQuote'));
    else if (node.type === 'horizontalRule') this.rule();
    else if (node.type === 'keptBlock') this.plain(String(node.attrs?.['says'] ?? ''), into);
    else if (node.type === 'codeBlock' || node.type === 'source')
      this.plain((node.content ?? []).map(({ text }) => text ?? '').join(''), into);
    else this.paragraph(node, into);
  }
  private all(node: RichNode, into: Structure, type: string): void {
    const within = this.pdf.struct(type);
    into.add(within);
    for (const one of node.content ?? []) this.block(one, within);
    within.end();
  }
  private indented(draw: () => void): void {
    this.left += INDENT;
    draw();
    this.left -= INDENT;
  }

  private heading(node: RichNode, level: number, into: Structure): void {
    const size = HEADINGS[level - 1]!;
    const runs = runsIn(node).filter(isRun);
    const text = runs.map((run) => run.text).join('');
    if (text.trim() === '') return;
    if (this.pdf.y > this.page.margin) this.pdf.y += size * 0.6;
    // It stays with what follows.
    this.room(size * 3);
    while (this.outline.at(-1)!.level >= level) this.outline.pop();
    this.outline.push({ level, item: this.outline.at(-1)!.item.addItem(text.trim()) });
    this.runs(
      runs.map((run) => ({ ...run, bold: true })),
      into,
      `H${level}`,
      size,
    );
    this.pdf.y += GAP * 0.6;
  }
  private paragraph(node: RichNode, into: Structure): void {
    let runs: PrintRun[] = [];
    const flush = () => {
      if (runs.some(({ text }) => text.trim() !== '')) this.runs(runs, into, 'P', SIZE);
      else this.pdf.y += SIZE * 0.6;
      this.pdf.y += GAP;
      runs = [];
    };
    const all = runsIn(node);
    for (const one of all)
      if (isRun(one)) runs.push(one);
      else {
        if (runs.length > 0) flush();
        this.image(one, into);
      }
    if (runs.length > 0 || all.length === 0) flush();
  }
  private plain(text: string, into: Structure): void {
    for (const line of text.split('\n'))
      this.paragraph({ type: 'paragraph', content: line === '' ? [] : [{ type: 'text', text: line }] }, into);
  }

  /** Letters that follow one another, in lines of the width that there is. */
  private runs(runs: readonly PrintRun[], into: Structure, type: string, size: number): void {
    const { pdf } = this;
    this.room(size * 1.4);
    const block = pdf.struct(type);
    into.add(block);
    for (const line of linesOf(runs)) {
      if (line.length === 0) pdf.y += size * 1.6;
      line.forEach((run, at) => {
        const draw = () => {
          pdf
            .font(fontOf(run))
            .fontSize(size)
            .fillColor(run.href ? LINK : INK);
          const options: PDFKit.Mixins.TextOptions = {
            width: this.width,
            lineGap: size * 0.25,
            continued: at < line.length - 1,
            underline: run.underline || run.href !== '',
            strike: run.strike,
            link: /^(?:https?|mailto|tel):/i.test(run.href) ? run.href : null,
          };
          const text = this.known(run.text);
          if (at === 0) pdf.text(text, this.left, pdf.y, options);
          else pdf.text(text, options);
        };
        if (run.href === '') return void block.add(draw);
        block.add(pdf.struct('Link', {}, [draw]));
      });
    }
    block.end();
    pdf.x = this.left;
  }

  private known(text: string): string {
    return known(this.pdf, text, this.missing);
  }

  private list(node: RichNode, into: Structure): void {
    const { pdf } = this;
    const list = pdf.struct('L');
    into.add(list);
    const first = Number(node.attrs?.['start'] ?? 1);
    (node.content ?? []).forEach((item, at) => {
      const [head, ...rest] = item.content ?? [];
      const entry = pdf.struct('LI');
      list.add(entry);
      this.room(SIZE * 1.6);
      const top = pdf.y;
      const label = node.type === 'orderedList' ? `${first + at}.` : '•';
      entry.add(
        pdf.struct('Lbl', {}, [
          () =>
            void pdf
              .font('plain')
              .fontSize(SIZE)
              .fillColor(INK)
              .text(label, this.left, top, { width: INDENT - 3, lineBreak: false }),
        ]),
      );
      pdf.y = top;
      const body = pdf.struct('LBody');
      entry.add(body);
      this.indented(() => {
        if (head) this.block(head, body);
        for (const one of rest) this.block(one, body);
      });
      pdf.y -= GAP * 0.5;
      body.end();
      entry.end();
    });
    list.end();
    pdf.y += GAP * 0.5;
  }

  private table(node: RichNode, into: Structure): void {
    const { pdf } = this;
    const rows = node.content ?? [];
    const widths = columnWidths(node, this.width);
    const table = pdf.struct('Table');
    into.add(table);
    const heads = rows.findIndex((row) => !isHead(row));
    const repeated = rows.slice(0, heads < 0 ? 1 : heads);
    rows.forEach((row) => {
      const height = this.rowHeight(row, widths);
      if (pdf.y + height > this.bottom) {
        pdf.addPage();
        // Shown again for who reads on paper; who listens has heard it.
        if (!isHead(row))
          for (const head of repeated) {
            pdf.markContent('Artifact', { type: 'Layout' });
            this.drawRow(head, widths, (draw) => draw());
            pdf.endMarkedContent();
          }
      }
      const line = pdf.struct('TR');
      table.add(line);
      this.drawRow(row, widths, (draw, cell) => {
        const head = cell.type === 'tableHeader';
        // Its types don't know what headings are of (ISO 32000-1, 14.8.5.7).
        const scope = { scope: 'Column' } as PDFKit.Mixins.StructureElementOptions;
        line.add(pdf.struct(head ? 'TH' : 'TD', head ? scope : {}, [draw]));
      });
      line.end();
    });
    table.end();
    pdf.x = this.left;
    pdf.y += GAP * 1.5;
  }
  private drawRow(
    row: RichNode,
    widths: readonly number[],
    add: (draw: () => void, cell: RichNode) => void,
  ): void {
    const { pdf } = this;
    const height = this.rowHeight(row, widths);
    const top = pdf.y;
    let left = this.left;
    (row.content ?? []).forEach((cell, at) => {
      const [x, width] = [left, widths[at]!];
      left += width;
      add(() => {
        if (cell.type === 'tableHeader') pdf.rect(x, top, width, height).fill('#f1f0ec');
        pdf.rect(x, top, width, height).lineWidth(0.5).stroke(RULE);
        pdf
          .font(cellFont(cell))
          .fontSize(SIZE - 1)
          .fillColor(INK);
        pdf.text(this.known(cellText(cell)), x + CELL, top + CELL, {
          width: width - 2 * CELL,
          height: height - CELL,
          align: alignOf(cell),
        });
      }, cell);
    });
    pdf.y = top + height;
  }
  /** No row is taller than a page: what doesn't fit on one is cut off, and told. */
  private rowHeight(row: RichNode, widths: readonly number[]): number {
    const { pdf } = this;
    const heights = (row.content ?? []).map((cell, at) => {
      pdf.font(cellFont(cell)).fontSize(SIZE - 1);
      return pdf.heightOfString(cellText(cell) || ' ', { width: widths[at]! - 2 * CELL });
    });
    return Math.min(Math.max(...heights, SIZE) + 2 * CELL, this.page.height - 2 * this.page.margin - 40);
  }

  private image(node: RichNode, into: Structure): void {
    const { pdf } = this;
    const alt = String(node.attrs?.['alt'] ?? '');
    const image = this.images.get(String(node.attrs?.['src'] ?? ''));
    if (!image) {
      if (alt !== '') this.plain(`[${alt}]`, into);
      return;
    }
    const wanted = Number(node.attrs?.['width'] ?? 0) || image.width;
    const scale = Math.min(
      1,
      this.width / (wanted * 0.75),
      (this.bottom - this.page.margin) / ((wanted * 0.75 * image.height) / image.width),
    );
    const width = wanted * 0.75 * scale;
    const height = (width * image.height) / image.width;
    this.room(height);
    const top = pdf.y;
    const draw = () => void pdf.image(image.bytes, this.left, top, { width, height });
    if (alt === '') {
      pdf.markContent('Artifact', { type: 'Layout' });
      draw();
      pdf.endMarkedContent();
    } else into.add(pdf.struct('Figure', { alt }, [draw]));
    pdf.y = top + height + GAP;
  }
  private rule(): void {
    const { pdf } = this;
    this.room(12);
    pdf.markContent('Artifact', { type: 'Layout' });
    pdf
      .moveTo(this.left, pdf.y + 5)
      .lineTo(this.left + this.width, pdf.y + 5)
      .lineWidth(0.5)
      .stroke(RULE);
    pdf.endMarkedContent();
    pdf.y += 12;
  }

  async end(): Promise<{ bytes: Buffer; missing: string[] }> {
    const { pdf } = this;
    this.root.end();
    numberPages(pdf);
    const ended = new Promise<void>((done) => pdf.on('end', done));
    pdf.end();
    await ended;
    return { bytes: Buffer.concat(this.chunks), missing: [...this.missing] };
  }
}

/** Letters line by line, where somebody ended one. */
function linesOf(runs: readonly PrintRun[]): PrintRun[][] {
  const lines: PrintRun[][] = [[]];
  for (const run of runs)
    run.text.split('\n').forEach((text, at) => {
      if (at > 0) lines.push([]);
      if (text !== '') lines.at(-1)!.push({ ...run, text });
    });
  return lines;
}

const fontOf = ({ bold, italic }: { bold: boolean; italic: boolean }): Font =>
  bold ? (italic ? 'both' : 'bold') : italic ? 'italic' : 'plain';
const isHead = (row: RichNode) => row.content?.every(({ type }) => type === 'tableHeader') ?? false;
const runsOfCell = (cell: RichNode) => (cell.content ?? []).flatMap((one) => runsIn(one).filter(isRun));
const cellFont = (cell: RichNode) => {
  const runs = runsOfCell(cell);
  const all = (look: 'bold' | 'italic') => runs.length > 0 && runs.every((run) => run[look]);
  return fontOf({ bold: cell.type === 'tableHeader' || all('bold'), italic: all('italic') });
};
const cellText = (cell: RichNode): string => {
  const said = (node: RichNode): string =>
    node.type === 'bulletList' || node.type === 'orderedList' || node.type === 'listItem'
      ? (node.content ?? []).map(said).join('\n')
      : runsIn(node)
          .filter(isRun)
          .map(({ text }) => text)
          .join('');
  return (cell.content ?? []).map(said).join('\n');
};
function alignOf(cell: RichNode): 'left' | 'right' | 'center' {
  const align = cell.attrs?.['align'];
  return align === 'right' || align === 'center' ? align : 'left';
}

/** Columns as wide as the document says, or as what stands in them needs, as far as there is room. */
function columnWidths({ attrs, content: rows = [] }: RichNode, width: number): number[] {
  const count = Math.max(...rows.map(({ content }) => content?.length ?? 0));
  const said = String(attrs?.['widths'] ?? '')
    .split(' ')
    .map(Number);
  const sum = said.reduce((all, one) => all + one, 0);
  if (said.length === count && said.every((one) => one > 0)) return said.map((one) => (width * one) / sum);
  const needs: number[] = [];
  for (const row of rows.slice(0, 200))
    (row.content ?? []).forEach((cell, at) => {
      const longest = Math.max(
        ...cellText(cell)
          .split('\n')
          .map((line) => line.length),
      );
      needs[at] = Math.max(needs[at] ?? 4, Math.min(longest, 60));
    });
  const all = needs.reduce((sum, one) => sum + one, 0);
  return needs.map((one) => (width * one) / all);
}
