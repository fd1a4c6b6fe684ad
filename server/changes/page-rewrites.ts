import type { SitePath } from '../../core/address/path.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { addressStyle, type AddressStyle } from '../../core/reference/markup.ts';
import type { PageEdit } from '../../core/reference/page-edit.ts';
import type { WordChange } from '../../core/reference/placed-words.ts';
import type { PageReading } from '../../core/reference/model.ts';
import { rewritePageBy, type RewriteArguments } from '../../core/reference/rewrite.ts';
import type { Site } from '../app/site.ts';
import { inTime } from '../workers/pool.ts';
import { newFolders, type Proposal } from './proposal.ts';
import { sha256Of } from './plan-bytes.ts';

/**
 * How addresses are written on a page: as most of its own that lead to files are. Where it has none, relative ones, which hold wherever the
 * folder is served; but from the root on pages that lie outside of public folders which a person has named.
 */
export function styleOf(site: Pick<Site, 'index'>, page: SitePath): AddressStyle {
  const references = site.index.factsOf(page)?.reading?.references ?? [];
  const leading = references.filter((one) => site.index.map.follow(one, page).to === 'file');
  const rooted = leading.filter((one) => /^[\\/]/.test(one.url)).length;
  const base = references.some((one) => one.base !== undefined);
  const named = !site.index.rootsGuessed && site.index.map.served(page) !== page;
  return addressStyle(page, base || (leading.length > 0 ? rooted * 2 > leading.length : named), (path) =>
    site.index.map.served(path),
  );
}

type Rewritten =
  | { changes: { line: number; place: string; oldUrl: string; newUrl: string }[]; bytes: Uint8Array }
  | { refused: string }
  | undefined;

/** Milliseconds of work that editing one page may take. */
export const EDIT_LIMIT = 20_000;
export const TOO_LONG = {
  refused: 'The page takes too long to read, so it can’t be edited here. Edit it in its own program.',
};

/** What a page says, as it is or as it would be. A worker reads it; one that takes it too long is unread. */
export async function readingOf(
  site: Pick<Site, 'pool'>,
  page: { path: SitePath; bytes: Uint8Array; links: boolean },
): Promise<PageReading> {
  const read = await inTime(() =>
    site.pool.run('read', { ...page, file: '', parse: true }, { limit: EDIT_LIMIT }),
  );
  const unread = TOO_LONG.refused;
  return read?.reading ?? { title: '', references: [], canonical: [], unread };
}

/** A page with other addresses, as `rewritePage` makes it. */
export function readdressed(site: Pick<Site, 'pool'>, ...args: RewriteArguments) {
  return rewritePageBy((page) => readingOf(site, page), ...args);
}

/** A page as edits would leave it. A worker reads it, as nobody knows how long that takes. */
export async function editedPage(
  site: Pick<Site, 'index' | 'pool'>,
  page: SitePath,
  bytes: Uint8Array,
  edits: readonly PageEdit[],
): Promise<Rewritten> {
  const style = styleOf(site, page);
  const addresses = Object.fromEntries(pathsIn(edits).map((path) => [path, style.of(path)]));
  const edited = await inTime(() =>
    site.pool.run('edit', { path: page, bytes, edits, addresses }, { limit: EDIT_LIMIT }),
  );
  return edited === undefined ? TOO_LONG : (edited ?? undefined);
}

/** A page with other words with its placements. */
export async function rewordedPage(
  site: Pick<Site, 'pool'>,
  page: SitePath,
  bytes: Uint8Array,
  wanted: readonly WordChange[],
): Promise<Rewritten> {
  const edited = await inTime(() =>
    site.pool.run('edit-words', { path: page, bytes, wanted }, { limit: EDIT_LIMIT }),
  );
  return edited === undefined ? TOO_LONG : (edited ?? undefined);
}

/** Under which names edits speak of files: what is shown, a style sheet, captions. */
const NAMES_OF_FILES = new Set(['path', 'href', 'src']);

/** Every file that edits speak of. */
function pathsIn(value: unknown): SitePath[] {
  if (typeof value !== 'object' || value === null) return [];
  return Object.entries(value).flatMap(([name, one]: [string, unknown]) =>
    NAMES_OF_FILES.has(name) && typeof one === 'string' ? [one] : pathsIn(one),
  );
}

/** Takes a changed page into a plan; one that cannot be changed safely stands in its way. */
export async function write(
  { planBytes }: Pick<Site, 'planBytes'>,
  proposal: Proposal,
  page: SitePath,
  before: Uint8Array,
  after: Rewritten,
): Promise<void> {
  const { plan } = proposal;
  if (!after) return;
  if ('refused' in after) {
    plan.clashes.push({ path: page, why: after.refused });
    return;
  }
  plan.files.push({
    do: 'write',
    path: page,
    before: sha256Of(before),
    after: await planBytes.keep(after.bytes),
  });
  plan.pages.push({
    page,
    changes: after.changes.map(({ line, place, oldUrl, newUrl }) => ({ line, place, oldUrl, newUrl })),
  });
}

/** Counts what a plan does, when all of it stands there. */
export async function finish(site: Pick<Site, 'folder'>, { plan }: Proposal, items: number): Promise<void> {
  plan.totals = {
    items,
    pages: plan.pages.length,
    spans: plan.pages.reduce((sum: number, page: Plan['pages'][number]) => sum + page.changes.length, 0),
    bytesFreed: 0,
  };
  plan.folders = await newFolders(site, plan);
}
