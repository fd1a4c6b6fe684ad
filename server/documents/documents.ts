import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { baseName, type SitePath } from '../../core/address/path.ts';
import { isPackage, mostEdited, textKindOf, type TextKind } from '../../core/document/document.ts';
import {
  NoText,
  otherEncoding,
  readText,
  type FormedText,
  type TextForm,
} from '../../core/document/text-form.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import type { Person } from '../db/people.ts';
import { Fault } from '../fault.ts';
import { hiddenFrom } from '../people/drafts.ts';

export interface OpenDocument {
  path: SitePath;
  kind: TextKind;
  bytes: Uint8Array;
  /** With line feeds; of a package '': what is written of it is what changes in it. */
  text: string;
  /** Null: it is no text. */
  form: TextForm | null;
  sha256: string;
  /** Null: it is a page, which has no record. */
  itemId: number | null;
  /** It is not on the site yet. */
  draft: boolean;
}

type Needs = Pick<Site, 'blobs' | 'db' | 'folder' | 'index' | 'items'>;

/**
 * A document of the site as it is at this moment, or a draft that is to lie there, as text.
 * @param person who asks for it, if it may be a draft: those of others aren't there for all
 * @throws Fault 'not-found', 'bad-request' when it can't be edited as text, 'too-large'
 */
export async function openDocument(
  site: Needs,
  path: SitePath,
  person?: Pick<Person, 'id' | 'role'>,
): Promise<OpenDocument> {
  const facts = site.index.factsOf(path) && (await site.folder.facts(path));
  const draft = facts || !person ? undefined : visibleDraft(site, path, person);
  if (draft) return openDraft(site, draft);
  if (!facts) throw new Fault('not-found', `There is no “${path}” on the site.`, 'Choose another document.');
  const kind = kindAt(path, facts.bytes);
  const bytes = await site.folder.read(path);
  const item = site.items.atPath(path);
  return opened(path, kind, bytes, item?.state === 'here' ? item.id : null, false);
}

/** The draft that is to lie at a path, if the person may see it. */
export function visibleDraft(
  site: Pick<Site, 'db' | 'items'>,
  path: SitePath,
  person: Pick<Person, 'id' | 'role'>,
): Item | undefined {
  const draft = site.items.draftAt(path);
  return draft && hiddenFrom(site, person, [draft.id]).size === 0 ? draft : undefined;
}

/** A draft as text. @throws Fault 'bad-request', 'too-large' */
export async function openDraft(
  site: Pick<Site, 'blobs'>,
  { id, path, sha256, bytes }: Item,
): Promise<OpenDocument> {
  const kind = kindAt(path, bytes);
  return opened(path, kind, await readFile(site.blobs.get(sha256)), id, true);
}

function kindAt(path: SitePath, bytes: number): TextKind {
  const kind = textKindOf(path);
  if (!kind)
    throw new Fault(
      'bad-request',
      `“${baseName(path)}” can’t be edited here.`,
      'Edit it in its own program.',
    );
  const most = mostEdited(kind);
  if (bytes > most)
    throw new Fault(
      'too-large',
      `“${baseName(path)}” is too large to be edited here.`,
      `Edit it in its own program. Up to ${most / 1_000_000} MB can be edited here.`,
    );
  return kind;
}

const opened = (
  path: SitePath,
  kind: TextKind,
  bytes: Uint8Array,
  itemId: number | null,
  draft: boolean,
): OpenDocument => ({
  path,
  kind,
  bytes,
  sha256: createHash('sha256').update(bytes).digest('hex'),
  itemId,
  draft,
  ...(isPackage(kind) ? { text: '', form: null } : formed(textOf(bytes, baseName(path), kind))),
});

const formed = ({ text, ...form }: FormedText) => ({ text, form });

/** @throws Fault 'bad-request' when the bytes are no text, or a page's in an encoding that can't be written here */
export function textOf(bytes: Uint8Array, name: string, kind?: TextKind): FormedText {
  const text = textIn(bytes, name);
  const other = kind === 'html' ? otherEncoding(text) : undefined;
  if (other)
    throw new Fault(
      'bad-request',
      `“${name}” can’t be edited here: it is in the encoding ${other}.`,
      'Edit it in its own program, or save it as UTF-8 there.',
    );
  return text;
}

function textIn(bytes: Uint8Array, name: string): FormedText {
  try {
    return readText(bytes);
  } catch (error) {
    if (!(error instanceof NoText)) throw error;
    throw new Fault('bad-request', `“${name}” can’t be edited here: it isn’t text.`, 'Download it.');
  }
}
