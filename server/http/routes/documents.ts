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
import { MadeView } from '../../../api/items.ts';
import { isPackage } from '../../../core/document/document.ts';
import { baseName } from '../../../core/address/path.ts';
import { openDocument, textOf, visibleDraft } from '../../documents/documents.ts';
import { documentVersions, isVersionOf } from '../../documents/versions.ts';
import { editedPackage, shownOf, versionOf } from '../../documents/packages.ts';
import { Fault } from '../../fault.ts';
import type { Services } from '../context.ts';
import { pdfsView } from '../views/item.ts';
import { defineRoute, Done, StoredFile, type Route } from '../route.ts';

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
      const { bytes, ...document } = await openDocument(site, path, person);
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
      const { sha256 } = await openDocument(site, path, person);
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

  /** The PDFs that were made from it. */
  defineRoute({
    method: 'get',
    path: '/documents/pdfs',
    right: 'look',
    query: AtPath,
    answer: z.array(MadeView),
    handle: ({ query: { path } }) => {
      const item = site.items.atPath(path);
      return pdfsView(site, item?.id ?? path, item?.sha256 ?? site.index.factsOf(path)?.sha256 ?? '');
    },
  }),

  defineRoute({
    method: 'get',
    path: '/documents/link-form',
    right: 'look',
    answer: LinkForm,
    handle: () => ({ form: site.siteState.linkForm }),
  }),

  /** The bytes of a version of it. */
  defineRoute({
    method: 'get',
    path: '/documents/bytes',
    right: 'look',
    query: AtPath.extend({ sha256: Sha }),
    answer: 'file',
    handle: async ({ query: { path, sha256 }, person }) => {
      const facts = site.index.factsOf(path);
      const isDraft = !facts && visibleDraft(site, path, person)?.sha256 === sha256;
      const kept = facts?.sha256 !== sha256;
      if (kept && !isDraft && !(await isVersionOf(site, path, sha256)))
        throw new Fault('not-found', 'This version isn’t kept.', 'Reload the document.');
      return {
        type: 'application/octet-stream',
        policy: "default-src 'none'",
        body: new StoredFile(kept ? site.blobs.get(sha256) : await site.folder.locate(path)),
      };
    },
  }),

  /** The text of a version of it. */
  defineRoute({
    method: 'get',
    path: '/documents/text',
    right: 'look',
    query: AtPath.extend({ sha256: Sha }),
    answer: KeptText,
    handle: async ({ query: { path, sha256 }, person }) => {
      const now = await openDocument(site, path, person);
      const bytes = now.sha256 === sha256 ? now.bytes : await versionOf(site, path, sha256);
      if (!isPackage(now.kind)) return { text: textOf(bytes, baseName(path)).text };
      return shownOf(site, now.kind, bytes);
    },
  }),

  /** What a package shows with somebody's changes, to be compared. */
  defineRoute({
    method: 'post',
    path: '/documents/edited',
    right: 'bring-in',
    body: 'UnsavedText',
    answer: KeptText,
    handle: async ({ body: { path, base, text }, person }) => {
      const now = await openDocument(site, path, person);
      if (!isPackage(now.kind)) return { text };
      const bytes = now.sha256 === base ? now.bytes : await versionOf(site, path, base);
      return shownOf(site, now.kind, await editedPackage(site, { ...now, bytes, sha256: base }, text));
    },
  }),
];
