import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { SitePath } from '../../core/address/path.ts';
import { writtenInWords } from '../../core/describe/written.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import { keep, needAllHere, newFolders, sha256Of, type Progress, type Proposal } from './proposal.ts';

/** Bytes of all new files of one plan: they are held until it is applied. */
const MOST = 500_000_000;
/** Formats into which words can be written without touching what they show. */
const TAKES_WORDS = /\.(jpe?g|png|webp|tiff?|gif|avif|heic|psd|dng|pdf|mp4|mov|m4a)$/i;

/**
 * Plans that the words of records are written into their files, under their IPTC and XMP names, or beside them as XMP
 * sidecars ('dome.jpg.xmp'). Nothing is encoded anew; files that cannot take words are told and left alone.
 *
 * @throws Fault 'too-large' when the files together weigh too much for one plan
 */
export async function proposeEmbed(
  site: Site,
  ids: readonly number[],
  as: 'file' | 'sidecar',
  progress?: Progress,
): Promise<Proposal> {
  await site.scanner.scan();
  // Sizes bear the words of their picture.
  const items = (await needAllHere(site, await site.families.whole(ids))).map((item) =>
    item.sizeOf === null ? item : { ...item, words: site.items.need(item.sizeOf).words },
  );
  const bytes = items.reduce((sum, item) => sum + item.bytes, 0);
  if (as === 'file' && bytes > MOST)
    throw new Fault(
      'too-large',
      `These files weigh ${Math.round(bytes / 1e6)} MB together; ${MOST / 1e6} MB can be written in one go.`,
      'Gather fewer items, or write sidecars.',
    );
  const plan = emptyPlan('describe', '');
  const written: Record<SitePath, string> = (plan.written = {});
  const proposal: Proposal = { plan, contents: new Map() };
  const work = await mkdtemp(join(site.dataFolder, 'embed-'));
  try {
    for (const [index, item] of items.entries()) {
      progress?.(index, items.length, 'files written');
      const file = await site.folder.locate(item.path);
      const to = join(work, as === 'file' ? item.name : `${item.name}.xmp`);
      try {
        if (as === 'sidecar') await site.metadata.sidecar(item.words, to);
        else if (TAKES_WORDS.test(item.name)) await site.metadata.copyWithWords(file, to, item.words);
        else {
          plan.warnings.push(
            `${item.path} is of a format that takes no words: it stays as it is. A sidecar can hold them.`,
          );
          continue;
        }
      } catch (error) {
        plan.warnings.push(`${item.path} stays as it is: ${(error as Error).message.split('\n')[0]}`);
        continue;
      }
      const after = await readFile(to);
      const path = as === 'file' ? item.path : `${item.path}.xmp`;
      const before = as === 'file' ? item.sha256 : await hashHere(site, path);
      if (sha256Of(after) !== before) {
        plan.files.push({ do: 'write', path, before, after: keep(proposal, after) });
        const carried = as === 'file' ? (await site.metadata.read(file)).words : {};
        written[path] = writtenInWords(item.words, carried);
      }
      await rm(to, { force: true });
    }
  } finally {
    await rm(work, { recursive: true, force: true });
  }
  plan.folders = await newFolders(site, plan);
  plan.totals.items = plan.files.length;
  const count = plan.files.length === 1 ? '1 item' : `${plan.files.length.toLocaleString('en')} items`;
  plan.title =
    as === 'file'
      ? `Write the words of ${count} into the ${plan.files.length === 1 ? 'file' : 'files'}`
      : `Write the words of ${count} beside the ${plan.files.length === 1 ? 'file' : 'files'}, as XMP`;
  return proposal;
}

async function hashHere(site: Site, path: string): Promise<string | null> {
  return (await site.folder.facts(path)) ? sha256Of(await site.folder.read(path)) : null;
}
