import { join } from 'node:path';
import { each, filter, flatMap, map, mapOf, setOf, sorted } from '../../core/paced.ts';
import { joinPath, type SitePath } from '../../core/address/path.ts';
import {
  readRedirects,
  redirectsWithout,
  redirectsAfter,
  REDIRECTS_FILE,
  writeRedirects,
} from '../../core/address/redirects.ts';
import {
  planAddresses,
  type AddressSnapshot,
  type MovingFile,
  type MovingItem,
  type RewrittenPage,
} from '../../core/plan/address.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { isReadWithoutLinks } from '../../core/reference/file-address.ts';
import { TOGETHER } from '../scan/scan.ts';
import { breathe } from '../workers/breathe.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import { proposeDraftPaths } from './drafts.ts';
import { sizesFollow } from './family.ts';
import { linkWarnings } from './links.ts';
import { readdressed, TOO_LONG } from './page-rewrites.ts';
import { Unended } from '../workers/pool.ts';
import {
  currentHash,
  itemsNow,
  needAllHere,
  needHere,
  newFolders,
  type Progress,
  type Proposal,
} from './proposal.ts';
import { sha256Of } from './plan-bytes.ts';
import { joined } from '../workers/tasks.ts';

/** What is needed of a site here. */
type Needs = Pick<
  Site,
  'folder' | 'planBytes' | 'index' | 'scanner' | 'items' | 'families' | 'references' | 'pool'
>;

/** Plans a new address for one item: another name, another folder, or both. */
export async function proposeAddress(
  site: Needs,
  id: number,
  folder: SitePath,
  name: string,
): Promise<Proposal> {
  const to = joinPath(folder, name.normalize('NFC'));
  const draft = await proposeDraftPaths(site, [id], () => to, 'rename');
  if (draft) return draft;
  await site.scanner.scan();
  const item = needHere(site, id);
  return withSizes(site, [item], new Map([[id, to]]));
}

/** Plans to move items to another folder, under their own names. */
export async function proposeMove(
  site: Needs,
  ids: readonly number[],
  folder: SitePath,
  progress?: Progress,
): Promise<Proposal> {
  const drafts = await proposeDraftPaths(site, ids, ({ name }) => joinPath(folder, name), 'move');
  if (drafts) return drafts;
  const items = await itemsNow(site, ids);
  const to = await mapOf(items, breathe, (item) => [item.id, joinPath(folder, item.name)]);
  const proposal = await withSizes(site, items, to, progress);
  proposal.plan.kind = 'move';
  return proposal;
}

/** Plans new names for items, each in its own folder. */
export async function proposeNames(
  site: Needs,
  names: readonly { itemId: number; name: string }[],
  progress?: Progress,
): Promise<Proposal> {
  const ids = names.map((one) => one.itemId);
  const wanted = await mapOf(names, breathe, ({ itemId, name }) => [itemId, name.normalize('NFC')]);
  const named = ({ id, folder }: Item) => joinPath(folder, wanted.get(id)!);
  const drafts = await proposeDraftPaths(site, ids, named, 'rename');
  if (drafts) return drafts;
  await site.scanner.scan();
  const items = await needAllHere(site, ids);
  const to = await mapOf(items, breathe, (item) => [item.id, named(item)]);
  const proposal = await withSizes(site, items, to, progress);
  proposal.plan.kind = 'rename';
  return proposal;
}

/** Other addresses for items; the sizes of images go with them. */
async function withSizes(
  site: Needs,
  items: Item[],
  to: ReadonlyMap<number, SitePath>,
  progress?: Progress,
): Promise<Proposal> {
  const along = await sizesFollow(site, items, to);
  const all = new Map<number, SitePath>();
  await each(to, breathe, ([id, path]) => all.set(id, path));
  await each(along.to, breathe, ([id, path]) => all.set(id, path));
  const proposal = await planMoves(site, items, all, [], progress, false, along.sizes);
  for (const warning of along.warnings) proposal.plan.warnings.push(warning);
  if (proposal.plan.clashes.length === 0) for (const step of along.staying) proposal.plan.records.push(step);
  if (along.sizes.length > 0)
    proposal.plan.warnings.push(
      along.sizes.length === 1
        ? '1 size is included.'
        : `${along.sizes.length.toLocaleString('en')} sizes are included.`,
    );
  return proposal;
}

/**
 * @param others files without a record that move too: pages among them may be linked from anywhere
 * @param sizes of the items, that go along: the change is told of the items
 * @param otherFormat the items get other bytes with it, so their extensions may change
 */
export async function planMoves(
  site: Pick<Site, 'folder' | 'planBytes' | 'index' | 'references' | 'pool'>,
  items: Item[],
  to: ReadonlyMap<number, SitePath>,
  others: readonly MovingFile[] = [],
  progress?: Progress,
  otherFormat = false,
  sizes: readonly Item[] = [],
): Promise<Proposal> {
  const all = [...items, ...sizes];
  const paths = await map(all, breathe, (item) => item.path);
  const isPage = (path: SitePath) => site.index.factsOf(path)?.reading !== undefined;
  const pages =
    others.length > 0
      ? await pagesLeadingTo(site, await setOf([...all, ...others], breathe, (one) => one.path))
      : await pagesShowing(site, paths);
  const itself = others.length > 0 ? [] : await filter(paths, breathe, isPage);
  const read = await filter(new Set([...pages, ...itself]), breathe, isPage);
  const moving = await map(all, breathe, ({ id, path, sha256, rowVersion }): MovingItem => ({
    id,
    path,
    sha256,
    rowVersion,
  }));
  const mentions = await sorted(
    await inSlices(paths, (some) => site.references.mentionsOfAll(some)),
    breathe,
    (a, b) => (a.page < b.page ? -1 : a.page > b.page ? 1 : a.line - b.line),
  );
  const { plan, contents } = await planAddresses(
    moving.slice(0, items.length),
    to,
    {
      paths: site.index.paths,
      rewrite: await rewriter(site, read, progress),
      mentions,
      roots: site.index.map.roots,
      breathe: breathe,
    },
    others,
    otherFormat,
    moving.slice(items.length),
  );
  if (plan.clashes.length > 0 || plan.files.length === 0) return { plan };
  const proposal: Proposal = { plan };
  const moves = await mapOf(plan.files, breathe, (step) =>
    step.do === 'move' ? [step.from, step.to] : undefined,
  );
  for (const page of contents) {
    await breathe();
    // A drawing that moves and is rewritten: its new bytes go to the new place after the move.
    const path = moves.get(page.path) ?? page.path;
    const after = await site.planBytes.keep(page.bytes, page.newSha256);
    plan.files.push({ do: 'write', path, before: page.beforeSha256, after });
    if (page.reading) (proposal.readings ??= new Map()).set(path, page.reading);
  }
  for (const warning of await linkWarnings(site, [...moves.keys()])) plan.warnings.push(warning);
  await addRedirects(site, proposal, moves);
  plan.folders = await newFolders(site, plan);
  return proposal;
}

/** What is found for each of many, asked for in slices. */
async function inSlices<One>(paths: readonly SitePath[], find: (some: SitePath[]) => One[]): Promise<One[]> {
  const found: One[] = [];
  for (let at = 0; at < paths.length; at += 200) {
    for (const one of find(paths.slice(at, at + 200))) found.push(one);
    await breathe();
  }
  return found;
}

/** The pages that show one of some files. */
export async function pagesShowing(
  site: Pick<Site, 'references'>,
  paths: readonly SitePath[],
): Promise<Set<SitePath>> {
  return new Set(await inSlices(paths, (some) => site.references.pagesShowing(some)));
}

/** So many pages are rewritten sooner here than a worker has learned the site. */
const FEW = 20;
let moveVersion = 0;

/** Rewrites pages: a few here, many on the workers, which are told the site once. */
export async function rewriter(
  site: Pick<Site, 'folder' | 'index' | 'pool'>,
  pages: readonly SitePath[],
  progress?: Progress,
): Promise<AddressSnapshot['rewrite']> {
  // Read again are only pages that move, or all, when it may be the links to pages that change.
  const knownOf = async (moves: ReadonlyMap<SitePath, SitePath>) => {
    let bare = site.index.map.aliases.length === 0;
    await each(moves.keys(), breathe, (path) => {
      if (bare && !isReadWithoutLinks(path)) bare = false;
    });
    return (path: SitePath) => {
      const facts = bare && !moves.has(path) ? site.index.factsOf(path) : undefined;
      return facts?.reading && !facts.reading.unread
        ? { sha256: facts.sha256, reading: facts.reading }
        : undefined;
    };
  };
  if (pages.length <= FEW) {
    const read: { path: SitePath; bytes: Uint8Array; sha256: string }[] = [];
    for (const path of pages) {
      const bytes = await site.folder.read(path);
      read.push({ path, bytes, sha256: sha256Of(bytes) });
    }
    return async (moves) => {
      const after = await site.index.map.afterMoves(moves, breathe);
      const done: RewrittenPage[] = [];
      const known = await knownOf(moves);
      for (const { path, bytes, sha256 } of read) {
        const said = known(path);
        const reading = said?.sha256 === sha256 ? said.reading : undefined;
        const rewrite = await readdressed(site, path, bytes, moves, site.index.map, after, reading);
        done.push({ path, sha256, rewrite });
      }
      return done;
    };
  }
  return async (moves) => {
    const version = ++moveVersion;
    const done = new Map<SitePath, RewrittenPage>();
    const known = await knownOf(moves);
    const { files, ...rest } = site.index.map.parts();
    await breathe();
    const parts = { ...rest, files: joined(files) };
    await breathe();
    const pairs = joined(await flatMap(moves, breathe, (pair) => pair));
    await breathe();
    site.pool.share('moves', { version, site: parts, moves: pairs });
    // Made one by one, as the workers take them.
    function* tasks() {
      for (const path of pages)
        yield [path, { file: join(site.folder.root, path), path, version, known: known(path) }] as const;
    }
    try {
      await site.pool.each(
        'rewrite',
        tasks(),
        (path, outcome) => {
          if ('output' in outcome) done.set(path, outcome.output);
          else if (outcome.error instanceof Unended)
            done.set(path, { path, sha256: site.index.factsOf(path)?.sha256 ?? '', rewrite: TOO_LONG });
          else throw new Error(`“${path}” couldn’t be updated: ${outcome.error.message}`);
          progress?.(done.size, pages.length, 'pages read');
        },
        { together: TOGETHER },
      );
    } finally {
      site.pool.drop('moves', version);
    }
    return map(pages, breathe, (path) => done.get(path)!);
  };
}

/** The pages, of all or of some, that refer to one of some files, by links to pages too, and those files that are pages themselves. */
export async function pagesLeadingTo(
  site: Pick<Site, 'folder' | 'index' | 'pool'>,
  paths: ReadonlySet<SitePath>,
  among: Iterable<SitePath> = site.index.paths,
): Promise<Set<SitePath>> {
  const pages = await filter(among, breathe, (path) => site.index.factsOf(path)?.reading !== undefined);
  const found = await setOf(pages, breathe, (page) => (paths.has(page) ? page : undefined));
  // Made one by one, as the workers take them.
  function* tasks() {
    for (const page of pages)
      yield [page, { file: join(site.folder.root, page), path: page, parse: true, links: true }] as const;
  }
  await site.pool.each(
    'read',
    tasks(),
    (page, outcome) => {
      if ('error' in outcome) throw outcome.error;
      const leads = outcome.output.reading?.references.some((reference) => {
        const target = site.index.map.follow(reference, page);
        return target.to === 'file' && paths.has(target.path);
      });
      if (leads) found.add(page);
    },
    { together: TOGETHER },
  );
  return found;
}

/** Where another plan has changed the redirects since, this one's are added to them, or taken out, as they are now. */
export async function followRedirects(
  site: Pick<Site, 'folder' | 'planBytes' | 'index' | 'pool'>,
  proposal: Proposal,
): Promise<void> {
  const { plan, redirected, unredirected } = proposal;
  const index = plan.files.findIndex((step) => step.do === 'write' && step.path === REDIRECTS_FILE);
  const step = plan.files[index];
  if (step?.do !== 'write') return;
  if ((await currentHash(site, REDIRECTS_FILE)) === step.before) return;
  if (!redirected && !unredirected) return;
  plan.files.splice(index, 1);
  if (redirected) await addRedirects(site, proposal, redirected);
  if (unredirected) await dropRedirects(site, proposal, unredirected);
}

/** Takes out what a change had added to the redirects, in so far as it still stands. */
export async function dropRedirects(
  site: Pick<Site, 'folder' | 'planBytes'>,
  proposal: Proposal,
  added: Plan['redirects'],
): Promise<void> {
  proposal.unredirected = added;
  if (!(await site.folder.facts(REDIRECTS_FILE))) return;
  const before = await site.folder.read(REDIRECTS_FILE);
  const { redirects: older, faults } = await readRedirects(before.toString('utf8'), breathe);
  const left = await redirectsWithout(older, added, breathe);
  if (left.length === older.length && left.every((one, at) => one.to === older[at]!.to)) return;
  const bytes = await writeRedirects(left, faults, breathe);
  const after = left.length + faults.length === 0 ? null : await site.planBytes.keep(bytes);
  proposal.plan.files.push({ do: 'write', path: REDIRECTS_FILE, before: sha256Of(before), after });
}

export async function addRedirects(
  site: Pick<Site, 'folder' | 'planBytes' | 'index'>,
  proposal: Proposal,
  moves: ReadonlyMap<SitePath, SitePath>,
): Promise<void> {
  proposal.redirected = moves;
  const facts = await site.folder.facts(REDIRECTS_FILE);
  const before = facts ? await site.folder.read(REDIRECTS_FILE) : undefined;
  const { redirects: older, faults } = await readRedirects(before?.toString('utf8') ?? '', breathe);
  for (const { line, why } of faults.slice(0, 3))
    proposal.plan.warnings.push(`${REDIRECTS_FILE}, line ${line}: ${why} The line is left as it is.`);
  const redirects = await redirectsAfter(older, moves, site.index.map.roots, breathe);
  // No chains: what led to an address that moves leads on to the new one at once.
  const now = await mapOf(redirects, breathe, ({ from, to }) => [from, to]);
  const told = await setOf(proposal.plan.redirects, breathe, (one) => one.from);
  await each(older, breathe, ({ from, to }) => {
    const next = now.get(from);
    if (next !== undefined && next !== to && !told.has(from))
      proposal.plan.redirects.push({ from, to: next, was: to });
  });
  const bytes = await writeRedirects(redirects, faults, breathe);
  await breathe();
  const after = await site.planBytes.keep(bytes);
  const beforeSha = before ? sha256Of(before) : null;
  if (after !== beforeSha)
    proposal.plan.files.push({ do: 'write', path: REDIRECTS_FILE, before: beforeSha, after });
}
