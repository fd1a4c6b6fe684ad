import { createHash } from 'node:crypto';
import { baseName, type SitePath } from '../../core/address/path.ts';
import { MOST_EDITED, textKindOf, type TextKind } from '../../core/document/document.ts';
import { NoText, readText, type FormedText } from '../../core/document/text-form.ts';
import type { Site } from '../app/site.ts';
import { Fault } from '../fault.ts';

export interface OpenDocument extends FormedText {
  path: SitePath;
  kind: TextKind;
  bytes: Uint8Array;
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
  if (facts.bytes > MOST_EDITED)
    throw new Fault(
      'too-large',
      `“${baseName(path)}” is too large to be edited here.`,
      'Edit it in its own program. Up to 1 MB can be edited here.',
    );
  const bytes = await site.folder.read(path);
  const item = site.items.atPath(path);
  return {
    path,
    kind,
    bytes,
    sha256: createHash('sha256').update(bytes).digest('hex'),
    itemId: item?.state === 'here' ? item.id : null,
    ...textOf(bytes, baseName(path)),
  };
}

/** @throws Fault 'bad-request' when the bytes are no text */
export function textOf(bytes: Uint8Array, name: string): FormedText {
  try {
    return readText(bytes);
  } catch (error) {
    if (!(error instanceof NoText)) throw error;
    throw new Fault('bad-request', `“${name}” can’t be edited here: it isn’t text.`, 'Download it.');
  }
}
