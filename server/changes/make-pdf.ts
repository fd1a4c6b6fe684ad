import { numberedName } from '../../core/address/name.ts';
import { clashKey, joinPath, pathFault, stemOf, type SitePath } from '../../core/address/path.ts';
import { setOf } from '../../core/paced.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import { readMadePdf, writeMadePdf } from '../../core/print/made-pdf.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import { Fault } from '../fault.ts';
import { breathe } from '../workers/breathe.ts';
import { itemsNow, type Proposal } from './proposal.ts';

type Needs = Pick<Site, 'folder' | 'index' | 'items' | 'now' | 'planBytes' | 'pool' | 'scanner'>;

/**
 * Plans a PDF of a document: beside it, with its words, as a new item; or in place of the one that was made from it before, with all its references.
 * @throws Fault 'bad-request' when none can be made of it, or it would be the same
 */
export async function proposePdf(site: Needs, itemId: number): Promise<Proposal> {
  const [item] = await itemsNow(site, [itemId]);
  const before = madeFrom(site, item!.id)[0];
  const made = await site.pool.run('make-pdf', {
    path: item!.path,
    bytes: await site.folder.read(item!.path),
    title: item!.words.title,
    language: item!.words.language,
    at: site.now(),
  });
  if ('refused' in made) throw new Fault('bad-request', made.refused, 'Nothing was made.');
  const after = await site.planBytes.keep(made.bytes);
  const plan = emptyPlan('make-pdf', '');
  plan.warnings.push(...made.notes);
  plan.totals.items = 1;
  const edit = writeMadePdf({ from: item!.id, sha256: item!.sha256 }, after);
  if (before) {
    plan.title = `Remake “${before.name}” from “${item!.name}”`;
    plan.files.push({ do: 'write', path: before.path, before: before.sha256, after });
    plan.records.push({
      itemId: before.id,
      rowVersion: before.rowVersion,
      before: { edit: before.edit },
      after: { edit },
    });
    return { plan };
  }
  const path = await freePath(site, item!);
  plan.title = `Make “${path.slice(path.lastIndexOf('/') + 1)}” from “${item!.name}”`;
  const fault = pathFault(path);
  if (fault) plan.clashes.push({ path, why: fault });
  plan.files.push({ do: 'create', path, sha256: after });
  return { plan, copies: [{ path, of: item!, edit }] };
}

/** The PDFs that were made from an item and are still as they were made. */
export const madeFrom = (site: Pick<Site, 'items'>, itemId: number): Item[] =>
  site.items.pdfsOf(itemId).filter(({ edit, sha256 }) => readMadePdf(edit, sha256) !== undefined);

async function freePath(site: Pick<Site, 'index'>, { folder, path: of }: Item): Promise<SitePath> {
  const taken = await setOf(site.index.paths, breathe, clashKey);
  const name = `${stemOf(of)}.pdf`;
  let path = joinPath(folder, name);
  for (let number = 2; taken.has(clashKey(path)); number++)
    path = joinPath(folder, numberedName(name, number));
  return path;
}
