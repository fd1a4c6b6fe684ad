import { readFile } from 'node:fs/promises';
import { z } from 'zod';
import {
  DocumentPath,
  DocumentVersion,
  DocumentView,
  KeptText,
  LinkForm,
  Sha,
  UnsavedKept,
} from '../../../api/documents.ts';
import { baseName } from '../../../core/address/path.ts';
import { openDocument, textOf } from '../../documents/documents.ts';
import { documentVersions } from '../../documents/versions.ts';
import { Fault } from '../../fault.ts';
import type { Services } from '../context.ts';
import { defineRoute, Done, type Route } from '../route.ts';

const AtPath = z.strictObject({ path: DocumentPath });

/** Documents that are edited as text. What somebody writes lies here until they save it as a plan. */
export const documentRoutes = ({ site }: Services): Route[] => [
  defineRoute({
    method: 'get',
    path: '/documents',
    right: 'look',
    query: AtPath,
    answer: DocumentView,
    handle: async ({ query: { path }, person }) => {
      const { bytes, ...document } = await openDocument(site, path);
      const mine = site.unsavedTexts.of(path, person.id);
      return {
        ...document,
        name: baseName(path),
        bytes: bytes.length,
        // What says the same as the site was saved.
        mine: mine && mine.text !== document.text ? mine : null,
        others: site.unsavedTexts.others(path, person.id),
      };
    },
  }),

  /** Keeps what somebody writes; nothing of it is on the site. */
  defineRoute({
    method: 'put',
    path: '/documents/unsaved',
    right: 'bring-in',
    body: 'UnsavedText',
    answer: UnsavedKept,
    handle: async ({ body: { path, base, text }, person }) => {
      const { sha256 } = await openDocument(site, path);
      const savedAt = site.now();
      site.db.write(() => site.unsavedTexts.keep(path, person.id, { base, text, savedAt }));
      return { savedAt, sha256, others: site.unsavedTexts.others(path, person.id) };
    },
  }),

  defineRoute({
    method: 'delete',
    path: '/documents/unsaved',
    right: 'bring-in',
    query: AtPath,
    answer: Done,
    handle: ({ query, person }) => {
      site.db.write(() => site.unsavedTexts.drop(query.path, person.id));
      return {};
    },
  }),

  defineRoute({
    method: 'get',
    path: '/documents/versions',
    right: 'look',
    query: AtPath,
    answer: z.array(DocumentVersion),
    handle: ({ query }) => documentVersions(site, query.path),
  }),

  defineRoute({
    method: 'get',
    path: '/documents/link-form',
    right: 'look',
    answer: LinkForm,
    handle: () => ({ form: site.siteState.linkForm }),
  }),

  /** The text of a version of it. */
  defineRoute({
    method: 'get',
    path: '/documents/text',
    right: 'look',
    query: AtPath.extend({ sha256: Sha }),
    answer: KeptText,
    handle: async ({ query: { path, sha256 } }) => {
      const own = (await documentVersions(site, path, false)).some(
        ({ before, after }) => before === sha256 || after === sha256,
      );
      const now = await openDocument(site, path);
      if (now.sha256 === sha256) return { text: now.text };
      if (!own || !site.blobs.has(sha256))
        throw new Fault('not-found', 'This version isn’t kept.', 'Reload the document.');
      return { text: textOf(await readFile(site.blobs.get(sha256)), baseName(path)).text };
    },
  }),
];
