import type { SitePath } from '../../core/address/path.ts';
import { creditFor } from '../../core/describe/licence.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import type { PageEdit } from '../../core/reference/page-edit.ts';
import { bindsPages, creditedItem, uncreditedOf } from '../describe/credits.ts';
import type { Site } from '../app/site.ts';
import { breathe } from '../workers/breathe.ts';
import { editedPage, finish, write } from './page-rewrites.ts';
import { needHere, type Progress, type Proposal } from './proposal.ts';
import { Unchanged } from './unchanged.ts';

/**
 * Plans that pages show the credit that the licences of these images ask for: at the end of the caption, or as one. Where a page has no room
 * for a caption, it stays as it is, with the reason.
 */
export async function proposeCredits(
  site: Pick<
    Site,
    'folder' | 'planBytes' | 'index' | 'scanner' | 'items' | 'families' | 'references' | 'pool'
  >,
  ids: readonly number[],
  progress?: Progress,
): Promise<Proposal> {
  await site.scanner.scan();
  const proposal: Proposal = { plan: emptyPlan('place', '') };
  const { plan } = proposal;
  const unchanged = new Unchanged();
  const items = (await site.items.many(ids)).map((item) => needHere(site, item.id));
  for (const { path, words } of items)
    if (!bindsPages(words) || creditFor(words) === '')
      unchanged.add(path, 'Its licence asks for no credit, or it names nobody.');
  const found = await uncreditedOf(
    site,
    items.map((item) => creditedItem(site, item)),
    progress,
  );
  const edits = new Map<SitePath, { id: number; edit: PageEdit }[]>();
  for (const { id, words, path } of items) {
    const { missing } = found.get(id) ?? { missing: [] };
    if (creditFor(words) !== '' && missing.length === 0)
      unchanged.add(path, 'Its credit stands near it already.');
    for (const { page, start } of missing) {
      const one = { id, edit: { do: 'add-caption', start, text: creditFor(words) } as const };
      const there = edits.get(page);
      if (there) there.push(one);
      else edits.set(page, [one]);
    }
  }
  const done = new Set<number>();
  for (const [page, wanted] of [...edits].sort(([a], [b]) => (a < b ? -1 : 1))) {
    await breathe();
    const bytes = await site.folder.read(page);
    const able = await possible(site, page, bytes, wanted, (why) =>
      plan.warnings.push(`“${page}” lacks a credit still: ${why}`),
    );
    if (able.length === 0) continue;
    await write(
      site,
      proposal,
      page,
      bytes,
      await editedPage(
        site,
        page,
        bytes,
        able.map(({ edit }) => edit),
      ),
    );
    for (const { id } of able) done.add(id);
  }
  plan.warnings.push(...unchanged.lines());
  await finish(site, proposal, done.size);
  plan.title = `Add the credit of ${done.size === 1 ? '1 image' : `${done.size.toLocaleString('en')} images`} to ${plan.pages.length === 1 ? '1 page' : `${plan.pages.length.toLocaleString('en')} pages`}`;
  return proposal;
}

/** The edits of a page that it has room for: all of them, or those that go one by one. */
async function possible<Wanted extends { edit: PageEdit }>(
  site: Pick<Site, 'index' | 'pool'>,
  page: SitePath,
  bytes: Uint8Array,
  wanted: readonly Wanted[],
  refused: (why: string) => void,
): Promise<readonly Wanted[]> {
  const all = await editedPage(
    site,
    page,
    bytes,
    wanted.map(({ edit }) => edit),
  );
  if (all && !('refused' in all)) return wanted;
  const able: Wanted[] = [];
  for (const one of wanted) {
    const tried = await editedPage(site, page, bytes, [one.edit]);
    if (tried && 'refused' in tried) refused(tried.refused);
    else if (tried) able.push(one);
  }
  return able;
}
