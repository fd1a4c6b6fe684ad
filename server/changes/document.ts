import { isPagePath } from '../../core/address/kinds.ts';
import { baseName, type SitePath } from '../../core/address/path.ts';
import { isPackage } from '../../core/document/document.ts';
import { sayChanges, sumOf, type LineEdit } from '../../core/document/line-changes.ts';
import type { SyntaxFault } from '../../core/document/syntax.ts';
import { writeContent } from '../../core/plan/draft-content.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import type { RequestOf } from '../../core/plan/kinds/index.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import { openDocument, openDraft, type OpenDocument } from '../documents/documents.ts';
import { editedPackage } from '../documents/packages.ts';
import { Fault } from '../fault.ts';
import { contentOf } from './drafts.ts';
import { recordStep } from './prepare.ts';
import { readingOf } from './page-rewrites.ts';
import type { Proposal } from './proposal.ts';

/** So many of the lines that change are shown. */
const SHOWN = 200;
/** So many addresses that lead nowhere are told by name. */
const TOLD = 3;

/**
 * Plans that a document gets another text: at its place, in its encoding, with the ends that its lines have.
 * @throws Fault 'stale-record' when it is no longer what was edited; 'bad-request' when nothing changes, or its encoding can't say it
 */
export async function proposeDocument(
  site: Pick<
    Site,
    'blobs' | 'db' | 'folder' | 'index' | 'items' | 'planBytes' | 'pool' | 'reader' | 'rows' | 'scanner'
  >,
  { path, itemId, base, text }: Omit<RequestOf<'document'>, 'kind'>,
): Promise<Proposal> {
  await site.scanner.scan();
  const draft = itemId === undefined ? undefined : draftOf(site, itemId);
  const now = draft ? await openDraft(site, draft) : await openDocument(site, path);
  if (now.sha256 !== base)
    throw new Fault(
      'stale-record',
      `“${baseName(path)}” has changed since you opened it.`,
      'Compare both texts, then save again.',
    );
  const written = await writtenOf(site, now, text);
  const after = await site.planBytes.keep(written.bytes);
  if (after === base) throw new Fault('bad-request', 'Nothing has changed.', 'Edit the text, then save it.');
  const changes = sayChanges(sumOf(written.edits), now.kind === 'workbook');
  const plan = emptyPlan('write', `Edit ${draft ? 'the draft ' : ''}“${baseName(path)}”: ${changes}`);
  if (draft) {
    const made = { sha256: after, bytes: written.bytes.length, width: null, height: null };
    recordStep(plan, draft, { content: [contentOf(draft), writeContent(made)] });
  } else plan.files.push({ do: 'write', path, before: base, after });
  plan.pages.push({
    page: path,
    changes: written.edits.slice(0, SHOWN).map(({ line, before, after: text, cell }) => ({
      line,
      place: cell === undefined ? (now.kind === 'workbook' ? 'row' : 'text') : `cell ${cell}`,
      oldUrl: before ?? '',
      newUrl: text ?? '',
    })),
  });
  plan.totals = {
    items: now.itemId === null ? 0 : 1,
    pages: isPagePath(path) && !draft ? 1 : 0,
    spans: written.edits.length,
    bytesFreed: 0,
  };
  if (written.fault)
    plan.warnings.push(
      `Programs can no longer read it: it isn’t ${written.fault.form} from line ${written.fault.line} on.`,
    );
  plan.warnings.push(...(await worse(site, path, now.bytes, written.bytes)));
  return { plan };
}

/** @throws Fault 'stale-record' when it is none any more */
function draftOf(site: Pick<Site, 'items'>, itemId: number): Item {
  const item = site.items.need(itemId);
  if (item.state === 'draft') return item;
  throw new Fault('stale-record', `“${item.name}” is no draft any more.`, 'Open it anew, then edit it.');
}

interface Written {
  bytes: Uint8Array;
  edits: LineEdit[];
  fault?: SyntaxFault | undefined;
}

/** The bytes that a document gets. @throws Fault 'bad-request' */
async function writtenOf(
  site: Parameters<typeof editedPackage>[0],
  now: OpenDocument,
  text: string,
): Promise<Written> {
  if (isPackage(now.kind)) {
    const bytes = await editedPackage(site, now, text);
    const compared = { before: now.bytes, after: bytes, kind: now.kind };
    return { bytes, edits: (await site.pool.run('line-edits', compared)) ?? [] };
  }
  const written = await site.pool.run('write-text', { path: now.path, before: now.bytes, text });
  if ('refused' in written)
    throw new Fault('bad-request', written.refused, 'Write it another way, or convert the file to UTF-8.');
  return written;
}

/** What was in order before, and is no longer: addresses that lead nowhere, a form that can't be read. */
async function worse(
  site: Pick<Site, 'index' | 'pool'>,
  path: SitePath,
  before: Uint8Array,
  after: Uint8Array,
): Promise<string[]> {
  if (!isPagePath(path)) return [];
  const [old, now] = [
    await readingOf(site, { path, bytes: before, links: true }),
    await readingOf(site, { path, bytes: after, links: true }),
  ];
  const broken = ({ references }: typeof old) =>
    new Set(
      references
        .filter((one) => ['missing', 'above'].includes(site.index.map.follow(one, path).to))
        .map(({ url }) => url),
    );
  const was = broken(old);
  const lost = [...broken(now)].filter((url) => !was.has(url));
  const warnings: string[] = [];
  if (now.unread && !old.unread) warnings.push(`The file can no longer be read: ${now.unread}`);
  if (lost.length > 0) {
    const named = lost.slice(0, TOLD).map((url) => `“${url}”`);
    const more = lost.length > TOLD ? ` and ${lost.length - TOLD} more` : '';
    warnings.push(
      `${named.join(', ')}${more} ${lost.length === 1 ? 'leads' : 'lead'} to no file of the site.`,
    );
  }
  return warnings;
}
