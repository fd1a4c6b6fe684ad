import { createHash } from 'node:crypto';
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
import { Fault } from '../fault.ts';

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
}

/**
 * A document of the site as it is at this moment, as text.
 * @throws Fault 'not-found', 'bad-request' when it can't be edited as text, 'too-large'
 */
export async function openDocument(
  site: Pick<Site, 'folder' | 'index' | 'items'>,
  path: SitePath,
): Promise<OpenDocument> {
  const kind = textKindOf(path);
  const facts = site.index.factsOf(path) && (await site.folder.facts(path));
  if (!facts) throw new Fault('not-found', `There is no “${path}” on the site.`, 'Choose another document.');
  if (!kind)
    throw new Fault(
      'bad-request',
      `“${baseName(path)}” can’t be edited here.`,
      'Edit it in its own program.',
    );
  const most = mostEdited(kind);
  if (facts.bytes > most)
    throw new Fault(
      'too-large',
      `“${baseName(path)}” is too large to be edited here.`,
      `Edit it in its own program. Up to ${most / 1_000_000} MB can be edited here.`,
    );
  const bytes = await site.folder.read(path);
  const item = site.items.atPath(path);
  return {
    path,
    kind,
    bytes,
    sha256: createHash('sha256').update(bytes).digest('hex'),
    itemId: item?.state === 'here' ? item.id : null,
    ...(isPackage(kind) ? { text: '', form: null } : formed(textOf(bytes, baseName(path), kind))),
  };
}

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
