import { OdfText, styleRoots } from './odf-text.ts';
import {
  childAt,
  childrenOf,
  readXml,
  relationsOf,
  UnreadableOffice,
  type OfficePackage,
  type XmlElement,
} from './package.ts';
import { element, escapeHtml, PaperImages, type Paper } from './paper.ts';

/** A presentation as text and images, slide by slide: PresentationML (ECMA-376) or OpenDocument. @throws UnreadableOffice */
export function readSlides(from: OfficePackage): Paper {
  const notes = new Set<string>();
  const slides = from.has('content.xml') ? odfSlides(from, notes) : pptxSlides(from, notes);
  if (slides.length === 0) throw new UnreadableOffice('It holds no slide.');
  const html = slides.map(({ content, spoken, hidden }, at) =>
    element(
      'section',
      { class: 'slide', 'aria-label': `Slide ${at + 1}` },
      `<p class="number">Slide ${at + 1} of ${slides.length}${hidden ? ', hidden' : ''}</p>${content}${
        spoken ? `<aside><p class="number">Notes</p>${spoken}</aside>` : ''
      }`,
    ),
  );
  notes.add('Slides are shown as text and images, not as they are laid out.');
  return { html: html.join(''), notes: [...notes] };
}

interface Slide {
  content: string;
  /** What is to be said with it. */
  spoken: string;
  hidden: boolean;
}

function odfSlides(from: OfficePackage, notes: Set<string>): Slide[] {
  const content = childAt(readXml(from.text('content.xml')), 'office:document-content');
  if (!content) return [];
  const text = new OdfText(from, styleRoots(from, content), notes);
  const kindOf = (frame: XmlElement) => frame.attributes['presentation:class'] ?? '';
  return childrenOf(childAt(content, 'office:body', 'office:presentation'), 'draw:page').map((page) => {
    const shapes = childrenOf(page).filter(({ name }) => /^draw:(?!g$)/.test(name) || name === 'draw:g');
    const titles = shapes.filter((shape) => kindOf(shape) === 'title');
    const others = shapes.filter((shape) => kindOf(shape) !== 'title');
    const html = (all: readonly XmlElement[]) =>
      text.within({ name: '', attributes: {}, children: [...all] });
    const spoken = childrenOf(childAt(page, 'presentation:notes'), 'draw:frame').filter(
      (frame) => kindOf(frame) === 'notes',
    );
    return {
      content: `${titles.length > 0 ? `<div class="title">${html(titles)}</div>` : ''}${html(others)}`,
      spoken: html(spoken),
      hidden: false,
    };
  });
}

function pptxSlides(from: OfficePackage, notes: Set<string>): Slide[] {
  const main = [...relationsOf(from, '').values()].find(({ type }) => type === 'officeDocument')?.target;
  if (main === undefined) throw new UnreadableOffice('It holds no presentation.');
  const relations = relationsOf(from, main);
  const ids = childrenOf(childAt(readXml(from.text(main)), 'p:presentation', 'p:sldIdLst'), 'p:sldId');
  const images = new PaperImages(from, notes);
  return ids.flatMap(({ attributes }) => {
    const part = relations.get(attributes['r:id'] ?? '')?.target;
    const slide = part === undefined ? undefined : childAt(readXml(from.text(part)), 'p:sld');
    if (!slide || part === undefined) return [];
    const own = relationsOf(from, part);
    const reader = new PptxShapes(images, own, notes);
    const spoken = [...own.values()].find(({ type }) => type === 'notesSlide')?.target;
    const said = spoken === undefined ? undefined : childAt(readXml(from.text(spoken)), 'p:notes');
    return [
      {
        content: reader.html(childAt(slide, 'p:cSld', 'p:spTree')),
        spoken: new PptxShapes(images, new Map(), notes).html(childAt(said, 'p:cSld', 'p:spTree'), /^body$/),
        hidden: ['0', 'false'].includes(slide.attributes['show'] ?? ''),
      },
    ];
  });
}

class PptxShapes {
  constructor(
    private readonly images: PaperImages,
    private readonly relations: ReadonlyMap<string, { target: string }>,
    private readonly notes: Set<string>,
  ) {}

  /** The shapes of a slide, its title first. @param only kinds of placeholders that are wanted */
  html(tree: XmlElement | undefined, only?: RegExp): string {
    const shapes = childrenOf(tree).filter(
      (shape) => !UNWANTED.test(kindOf(shape)) && (!only || only.test(kindOf(shape))),
    );
    const isTitle = (shape: XmlElement) => /^(ctrTitle|title)$/.test(kindOf(shape));
    return [...shapes.filter(isTitle), ...shapes.filter((shape) => !isTitle(shape))]
      .map((shape) => {
        const html = this.shape(shape);
        return isTitle(shape) && html !== '' ? `<div class="title">${html}</div>` : html;
      })
      .join('');
  }

  private shape(shape: XmlElement): string {
    switch (shape.name) {
      case 'p:sp':
        return this.text(childAt(shape, 'p:txBody'));
      case 'p:grpSp':
        return this.html(shape);
      case 'p:pic': {
        const id = childAt(shape, 'p:blipFill', 'a:blip')?.attributes['r:embed'];
        const words = childAt(shape, 'p:nvPicPr', 'p:cNvPr')?.attributes['descr'] ?? '';
        return this.images.html(id === undefined ? undefined : this.relations.get(id)?.target, words, '');
      }
      case 'p:graphicFrame': {
        const data = childAt(shape, 'a:graphic', 'a:graphicData');
        const table = childAt(data, 'a:tbl');
        if (table) return this.table(table);
        this.notes.add('Charts and embedded objects aren’t shown here.');
        return '';
      }
      default:
        return '';
    }
  }

  private table(table: XmlElement): string {
    const rows = childrenOf(table, 'a:tr').map((row) => {
      const cells = childrenOf(row, 'a:tc').map(({ attributes, ...cell }) => {
        if (attributes['hMerge'] || attributes['vMerge']) return '';
        const spans = { colspan: attributes['gridSpan'], rowspan: attributes['rowSpan'] };
        return element('td', spans, this.text(childAt({ attributes, ...cell }, 'a:txBody')));
      });
      return `<tr>${cells.join('')}</tr>`;
    });
    return `<table>${rows.join('')}</table>`;
  }

  private text(body: XmlElement | undefined): string {
    return childrenOf(body, 'a:p')
      .map((paragraph) => {
        const level = Number(childAt(paragraph, 'a:pPr')?.attributes['lvl'] ?? 0);
        const words = childrenOf(paragraph)
          .map((run) => {
            if (run.name === 'a:br') return '<br>';
            if (run.name !== 'a:r' && run.name !== 'a:fld') return '';
            const look = childAt(run, 'a:rPr')?.attributes ?? {};
            const on = (name: string) => ['1', 'true'].includes(look[name] ?? '');
            const style = [
              on('b') ? 'font-weight:bold' : '',
              on('i') ? 'font-style:italic' : '',
              look['u'] !== undefined && look['u'] !== 'none' ? 'text-decoration:underline' : '',
            ].filter(Boolean);
            const said = childrenOf(run, 'a:t').flatMap(({ children }) => children);
            return element('span', { style: style.join(';') }, escapeHtml(said.join('')));
          })
          .join('');
        if (words === '') return '';
        const indent = level > 0 ? `margin-left:${Math.min(8, level) * 1.5}em` : undefined;
        return element('p', { style: indent }, words);
      })
      .join('');
  }
}

/** Placeholders that say the same on every slide. */
const UNWANTED = /^(dt|ftr|sldNum|hdr|sldImg)$/;

/** The kind of placeholder that a shape is; '': none. */
function kindOf(shape: XmlElement): string {
  const own = childrenOf(shape).find(({ name }) => /^p:nv\w*Pr$/.test(name));
  const placeholder = childAt(own, 'p:nvPr', 'p:ph');
  return placeholder ? (placeholder.attributes['type'] ?? 'obj') : '';
}
