import { baseName, extensionOf, folderOf, joinPath, stemOf, type SitePath } from '../../core/address/path.ts';
import { readFile } from 'node:fs/promises';
import { isPagePath, mimeOf } from '../../core/address/kinds.ts';
import { isHtmlPage, type PageEdit } from '../../core/reference/page-edit.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import { planMoves } from './addresses.ts';
import { remakeSizes, SCALED, sizesFollow } from './family.ts';
import { editedPage, readdressed, readingOf } from './page-rewrites.ts';
import { needHere, newFolders, type Proposal } from './proposal.ts';
import { sha256Of } from './plan-bytes.ts';
import { breathe } from '../workers/breathe.ts';

export interface Replacing {
  itemId: number;
  /** A file that waits at the door, or another item, which stays where it is. */
  by: { arrivalId: number } | { itemId: number };
  /** 'keep': the address stays; 'new': the name of the new file is taken, and every reference follows. */
  name: 'keep' | 'new';
  /** The date taken stays, or becomes that of the new file. */
  dates: 'keep' | 'new';
}

export interface NewFile {
  sha256: string;
  name: string;
  width: number | null;
  height: number | null;
  takenAt: string;
  /** The item whose file it is. */
  from?: SitePath;
  /** Where it is on the disk. */
  file: string;
  arrival?: number;
  /** What must be seen lies elsewhere in it: as pages write that, before and after. */
  position?: { from: string; to: string } | undefined;
}

/** What is needed of a site to give an item other bytes. */
type Replaceable = Pick<
  Site,
  'folder' | 'data' | 'planBytes' | 'index' | 'items' | 'families' | 'references' | 'pool'
>;

/**
 * Plans that an item gets other bytes: its record and its references stay, the old file becomes a version of it. Width and
 * height written on pages follow where they were those of the old file. Another format needs another extension, and thus a
 * new address.
 */
export async function proposeReplace(
  site: Replaceable & Pick<Site, 'blobs' | 'scanner' | 'arrivals'>,
  replacing: Replacing,
  personId: number,
): Promise<Proposal> {
  await site.scanner.scan();
  const item = needHere(site, replacing.itemId);
  const file = await newFile(site, replacing.by, personId);
  const proposal = await replaced(site, item, file, replacing);
  if (file.arrival !== undefined && proposal.plan.clashes.length === 0) proposal.ends = [file.arrival];
  return proposal;
}

/**
 * Plans that an item gets the bytes of a file.
 * @param sizes whether its sizes are made anew from them
 * @throws Fault when these are the bytes that it has
 */
export async function replaced(
  site: Replaceable,
  item: Item,
  file: NewFile,
  replacing: Pick<Replacing, 'name' | 'dates'>,
  sizes = true,
): Promise<Proposal> {
  if (file.sha256 === item.sha256)
    throw new Fault('bad-request', 'This is the same file.', 'Choose another one.');
  const sameFormat = extensionOf(file.name) === extensionOf(item.name);
  const name =
    replacing.name === 'new'
      ? baseName(file.name)
      : `${stemOf(item.name)}${extensionOf(sameFormat ? item.name : file.name)}`;
  const path = joinPath(item.folder, name);
  const moves = new Map<SitePath, SitePath>(path === item.path ? [] : [[item.path, path]]);
  const to = new Map([[item.id, path]]);
  const extension = sameFormat || !SCALED.has(mimeOf(path)) ? undefined : extensionOf(path);
  const along = await sizesFollow(site, [item], to, extension);
  const proposal = await planMoves(
    site,
    [item],
    new Map([...to, ...along.to]),
    [],
    undefined,
    true,
    along.sizes,
  );
  const { plan } = proposal;
  plan.kind = 'replace';
  plan.title = `Replace “${item.name}” with “${file.name}”`;
  plan.totals.items = 1;
  if (plan.clashes.length > 0) return proposal;
  if (!sameFormat && replacing.name === 'keep')
    plan.warnings.push(
      `The new file has another format, so the address changes to “${name}”. References are updated and a redirect is kept.`,
    );
  await keepLeading(site, plan, file, path);
  // What was rewritten inside the old file, if it was a drawing, is of no use to the new one.
  plan.files = plan.files.filter((step) => !(step.do === 'write' && step.path === path));
  plan.pages = plan.pages.filter((one) => one.page !== item.path);
  plan.files.push({
    do: 'write',
    path,
    before: item.sha256,
    after: file.sha256,
  });
  if (replacing.dates === 'new' && item.words.taken !== file.takenAt) {
    const step = plan.records.find((one) => one.itemId === item.id);
    if (step) {
      step.before.taken = item.words.taken;
      step.after.taken = file.takenAt;
    } else
      plan.records.push({
        itemId: item.id,
        rowVersion: item.rowVersion,
        before: { taken: item.words.taken },
        after: { taken: file.takenAt },
      });
  }
  plan.warnings.push(...along.warnings);
  plan.records.push(...along.staying);
  if (sizes) await remakeSizes(site, proposal, item, { ...file, mime: mimeOf(path) }, along.to);
  await resizeOnPages(site, proposal, item, path, moves, file);
  if (file.width && item.width && file.width < item.width)
    plan.warnings.push(
      `The new file is smaller: ${file.width} × ${file.height ?? '?'} px instead of ${item.width} × ${item.height ?? '?'} px. It will look soft where it is displayed larger.`,
    );
  if (file.width && file.height && item.width && item.height) {
    const change = file.width / file.height / (item.width / item.height);
    if (Math.abs(change - 1) > 0.02)
      plan.warnings.push('The new file has another aspect ratio. Check the pages that use it afterwards.');
  }
  plan.totals.pages = plan.pages.length;
  plan.totals.spans = plan.pages.reduce((sum, page) => sum + page.changes.length, 0);
  plan.folders = await newFolders(site, plan);
  return proposal;
}

/**
 * A drawing that comes from another folder leads where it led: its addresses are written anew for its new place. One that comes from elsewhere
 * is said to show what it cannot find there.
 */
async function keepLeading(
  site: Pick<Site, 'planBytes' | 'index' | 'pool'>,
  plan: Plan,
  file: NewFile,
  path: SitePath,
): Promise<void> {
  if (!isPagePath(path)) return;
  let bytes: Uint8Array = await readFile(file.file);
  if (file.from !== undefined && folderOf(file.from) !== folderOf(path)) {
    const moves = new Map([[file.from, path]]);
    const rewrite = await readdressed(
      site,
      file.from,
      bytes,
      moves,
      site.index.map,
      await (await site.index.map.changed([], [path], breathe)).afterMoves(moves, breathe),
    );
    if (rewrite && 'refused' in rewrite) plan.warnings.push(`Inside the new file: ${rewrite.refused}`);
    else if (rewrite) {
      bytes = rewrite.bytes;
      file.sha256 = await site.planBytes.keep(bytes);
      plan.warnings.push(
        'Addresses inside the new file are updated so that they still work from its new folder.',
      );
    }
  }
  const reading = await readingOf(site, { path, bytes, links: false });
  const lost = reading.references
    .filter((one) => ['missing', 'above'].includes(site.index.map.follow(one, path).to))
    .map((one) => `“${one.url}”`);
  if (lost.length > 0)
    plan.warnings.push(
      `Inside the new file, ${lost.slice(0, 3).join(', ')}${lost.length > 3 ? ` and ${lost.length - 3} more` : ''} ${lost.length === 1 ? 'is' : 'are'} broken from its new folder.`,
    );
}

async function newFile(
  site: Pick<Site, 'folder' | 'blobs' | 'planBytes' | 'items' | 'arrivals'>,
  by: Replacing['by'],
  personId: number,
): Promise<NewFile> {
  if ('itemId' in by) {
    const other = needHere(site, by.itemId);
    const file = await site.folder.locate(other.path);
    // A copy: the other item may change until this is applied.
    await site.planBytes.copy(file, other.sha256);
    return {
      sha256: other.sha256,
      name: other.name,
      width: other.width,
      height: other.height,
      takenAt: other.words.taken,
      from: other.path,
      file,
    };
  }
  const row = site.arrivals.get(by.arrivalId);
  if (!row || row.personId !== personId || row.state !== 'ready')
    throw new Fault('not-found', 'The new file isn’t ready yet.', 'Upload it again.');
  const facts = row.ready?.facts ?? row.facts;
  return {
    sha256: row.ready?.sha256 ?? row.sha256,
    name: row.name,
    width: facts.width ?? null,
    height: facts.height ?? null,
    takenAt: row.facts.takenAt?.slice(0, 10) ?? '',
    file: site.blobs.get(row.ready?.sha256 ?? row.sha256),
    arrival: row.id,
  };
}

/**
 * Width and height beside the item on pages become those of the new file, where they were those of the old; and so does the place that is
 * kept in sight where pages crop it.
 */
export async function resizeOnPages(
  site: Pick<Site, 'folder' | 'planBytes' | 'index' | 'references' | 'pool'>,
  proposal: Proposal,
  item: { path: SitePath; width: number | null; height: number | null },
  path: SitePath,
  moves: ReadonlyMap<SitePath, SitePath>,
  file: Pick<NewFile, 'width' | 'height' | 'position'>,
): Promise<void> {
  if (!item.width || !item.height || !file.width || !file.height) return;
  const from = { width: item.width, height: item.height };
  const to = { width: file.width, height: file.height };
  const { position } = file;
  if (from.width === to.width && from.height === to.height && !position) return;
  const after = await site.index.map.afterMoves(moves, breathe);
  for (const page of site.references.pagesShowing([item.path]).filter(isHtmlPage)) {
    const step = proposal.plan.files.find((one) => one.do === 'write' && one.path === page);
    const written =
      step?.do === 'write' && step.after !== null ? await site.planBytes.read(step.after) : undefined;
    const bytes = written ?? (await site.folder.read(page));
    const reading = await readingOf(site, { path: page, bytes, links: false });
    const edits = reading.references
      .filter((one) => {
        const target = one.place === 'img src' ? after.follow(one, page) : undefined;
        return target?.to === 'file' && target.path === path;
      })
      .flatMap(({ start }): PageEdit[] => [
        { do: 'resize', start, from, to },
        ...(position ? [{ do: 'focus' as const, start, position: position.to, from: position.from }] : []),
      ]);
    const edited = await editedPage(site, page, bytes, edits);
    if (!edited) continue;
    if ('refused' in edited) {
      proposal.plan.clashes.push({ path: page, why: edited.refused });
      continue;
    }
    const changes = edited.changes.map(({ line, place, oldUrl, newUrl }) => ({
      line,
      place,
      oldUrl,
      newUrl,
    }));
    if (step?.do === 'write') {
      step.after = await site.planBytes.keep(edited.bytes);
      proposal.readings?.delete(page);
      proposal.plan.pages.find((one) => one.page === page)!.changes.push(...changes);
    } else {
      proposal.plan.files.push({
        do: 'write',
        path: page,
        before: sha256Of(bytes),
        after: await site.planBytes.keep(edited.bytes),
      });
      proposal.plan.pages.push({ page, changes });
    }
  }
}
