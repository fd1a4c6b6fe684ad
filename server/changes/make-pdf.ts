import { numberedName } from '../../core/address/name.ts';
import {
  baseName,
  clashKey,
  folderOf,
  joinPath,
  pathFault,
  stemOf,
  type SitePath,
} from '../../core/address/path.ts';
import { setOf } from '../../core/paced.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import { readMadePdf, writeMadePdf } from '../../core/print/made-pdf.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import { Fault } from '../fault.ts';
import { breathe } from '../workers/breathe.ts';
import type { Proposal } from './proposal.ts';

type Needs = Pick<
  Site,
  'folder' | 'index' | 'items' | 'now' | 'planBytes' | 'pool' | 'references' | 'scanner'
>;

/** A document that a PDF is made of: an item, or a page, which has no record. */
interface Source {
  path: SitePath;
  item: Item | undefined;
  from: number | SitePath;
  sha256: string;
  title: string;
  language: string;
}

/**
 * Plans a PDF of a document: beside it, with its words, as a new item; or in place of the one that was made from it before, with all its references.
 * @throws Fault 'not-found', 'bad-request' when none can be made of it, or it would be the same
 */
export async function proposePdf(site: Needs, path: SitePath): Promise<Proposal> {
  await site.scanner.scan();
  const source = sourceAt(site, path);
  if (!source) throw new Fault('not-found', `There is no “${path}” on the site.`, 'Choose another document.');
  const { item, from, sha256 } = source;
  const before = madeFrom(site, from)[0];
  const made = await site.pool.run('make-pdf', {
    path,
    bytes: await site.folder.read(path),
    title: source.title,
    language: source.language,
    at: site.now(),
    images: item ? [] : await imagesOn(site, path),
  });
  if ('refused' in made) throw new Fault('bad-request', made.refused, 'Nothing was made.');
  const after = await site.planBytes.keep(made.bytes);
  const plan = emptyPlan('make-pdf', '');
  plan.warnings.push(...made.notes);
  plan.totals.items = 1;
  const edit = writeMadePdf({ from, sha256 }, after);
  if (before) {
    plan.title = `Remake “${before.name}” from “${baseName(path)}”`;
    plan.files.push({ do: 'write', path: before.path, before: before.sha256, after });
    plan.records.push({
      itemId: before.id,
      rowVersion: before.rowVersion,
      before: { edit: before.edit },
      after: { edit },
    });
    return { plan };
  }
  const beside = await freePath(site, path);
  plan.title = `Make “${baseName(beside)}” from “${baseName(path)}”`;
  const fault = pathFault(beside);
  if (fault) plan.clashes.push({ path: beside, why: fault });
  plan.files.push({ do: 'create', path: beside, sha256: after });
  const words = item ? {} : { title: source.title };
  return { plan, copies: [{ path: beside, of: item ?? null, edit, ...words }] };
}

/** What is at a path now; undefined: nothing is. */
function sourceAt(site: Pick<Site, 'index' | 'items' | 'references'>, path: SitePath): Source | undefined {
  const item = site.items.atPath(path);
  if (item) {
    const { title, language } = item.words;
    return { path, item, from: item.id, sha256: item.sha256, title, language };
  }
  const facts = site.index.factsOf(path);
  if (!facts) return undefined;
  const said = site.references.titleOf(path);
  return {
    path,
    item: undefined,
    from: path,
    sha256: facts.sha256,
    title: said === path ? '' : said,
    language: '',
  };
}

/** The files of the images that a page shows, by their addresses on it. */
async function imagesOn(
  site: Pick<Site, 'folder' | 'references'>,
  page: SitePath,
): Promise<[address: string, file: string][]> {
  const found = new Map<string, string>();
  for (const { kind, path, url } of site.references.shownOn(page))
    if (kind === 'image' && !found.has(url)) found.set(url, await site.folder.locate(path));
  return [...found];
}

/** The PDFs that were made from a document and are still as they were made. */
export const madeFrom = (site: Pick<Site, 'items'>, from: number | SitePath): Item[] =>
  site.items.pdfsOf(from).filter(({ edit, sha256 }) => readMadePdf(edit, sha256) !== undefined);

async function freePath(site: Pick<Site, 'index'>, of: SitePath): Promise<SitePath> {
  const taken = await setOf(site.index.paths, breathe, clashKey);
  const name = `${stemOf(of)}.pdf`;
  let path = joinPath(folderOf(of), name);
  for (let number = 2; taken.has(clashKey(path)); number++)
    path = joinPath(folderOf(of), numberedName(name, number));
  return path;
}
