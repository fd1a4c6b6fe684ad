import { z } from 'zod';
import { DocumentVersion, DocumentView, KeptText, LinkForm, UnsavedKept } from '../../api/documents.ts';
import { MadeView } from '../../api/items.ts';
import { ask, search } from './client.ts';

/** Documents that are edited as text. */
export const documentsApi = {
  open: (path: string) => ask(DocumentView, 'GET', `/documents${search({ path })}`),
  keep: (path: string, base: string, text: string) =>
    ask(UnsavedKept, 'PUT', '/documents/unsaved', { path, base, text }),
  /** What a workbook shows with somebody's changes. */
  edited: (path: string, base: string, text: string) =>
    ask(KeptText, 'POST', '/documents/edited', { path, base, text }),
  /** Where the bytes of a version are. */
  bytes: (path: string, sha256: string) => `/api/documents/bytes${search({ path, sha256 })}`,
  drop: (path: string) => ask(z.unknown(), 'DELETE', `/documents/unsaved${search({ path })}`),
  versions: (path: string) => ask(z.array(DocumentVersion), 'GET', `/documents/versions${search({ path })}`),
  /** The PDFs that were made from it. */
  pdfs: (path: string) => ask(z.array(MadeView), 'GET', `/documents/pdfs${search({ path })}`),
  linkForm: () => ask(LinkForm, 'GET', '/documents/link-form'),
  text: (path: string, sha256: string) => ask(KeptText, 'GET', `/documents/text${search({ path, sha256 })}`),
};
