import { OdfText, styleRoots } from './odf-text.ts';
import { childAt, readXml, UnreadableOffice, type OfficePackage } from './package.ts';
import type { Paper } from './paper.ts';

/** A text document in OpenDocument (ISO/IEC 26300-1). @throws UnreadableOffice */
export function readOdt(from: OfficePackage): Paper {
  const content = childAt(readXml(from.text('content.xml')), 'office:document-content');
  const body = childAt(content, 'office:body', 'office:text');
  if (!content || !body) throw new UnreadableOffice('It holds no text.');
  const notes = new Set<string>();
  const text = new OdfText(from, styleRoots(from, content), notes);
  const html = `<article>${text.within(body)}${text.notesBelow()}</article>`;
  return { html, notes: [...notes] };
}
