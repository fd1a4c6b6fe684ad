import { extensionOf, type SitePath } from '../../core/address/path.ts';
import { writtenInWords } from '../../core/describe/written.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import { needAllHere, newFolders, type Progress, type Proposal } from './proposal.ts';
import { TAKES_WORDS } from '../media/metadata.ts';
import { sha256Of, type NewBytes } from './plan-bytes.ts';
import { fromWorkFile } from './rendered.ts';

/**
 * Plans that the words of records are written into their files, under their IPTC and XMP names, or beside them as XMP
 * sidecars ('dome.jpg.xmp'). Nothing is encoded anew; files that cannot take words are told and left alone.
 */
export async function proposeEmbed(
  site: Pick<Site, 'folder' | 'data' | 'planBytes' | 'scanner' | 'items' | 'families' | 'pool' | 'metadata'>,
  ids: readonly number[],
  as: 'file' | 'sidecar',
  progress?: Progress,
): Promise<Proposal> {
  await site.scanner.scan();
  // Sizes bear the words of their image.
  const items = (await needAllHere(site, await site.families.whole(ids))).map((item) =>
    item.sizeOf === null ? item : { ...item, words: site.items.need(item.sizeOf).words },
  );
  const plan = emptyPlan('describe', '');
  const written: Record<SitePath, string> = (plan.written = {});
  const proposal: Proposal = { plan };
  for (const [index, item] of items.entries()) {
    progress?.(index, items.length, 'files written');
    if (as === 'file' && !TAKES_WORDS.test(item.name)) {
      plan.warnings.push(`${item.path} has a format that can’t store metadata. Use a sidecar file.`);
      continue;
    }
    const file = await site.folder.locate(item.path);
    const write = async (to: string, take: () => Promise<NewBytes>) => {
      await (as === 'sidecar'
        ? site.metadata.sidecar(item.words, to)
        : site.metadata.copyWithWords(file, to, item.words));
      return take();
    };
    let after: string;
    try {
      after = (await fromWorkFile(site, write, as === 'sidecar' ? '.xmp' : extensionOf(item.name))).sha256;
    } catch (error) {
      if (error instanceof Fault) throw error;
      plan.warnings.push(`${item.path} is unchanged: ${(error as Error).message.split('\n')[0]}`);
      continue;
    }
    const path = as === 'file' ? item.path : `${item.path}.xmp`;
    const before = as === 'file' ? item.sha256 : await hashHere(site, path);
    if (after === before) continue;
    plan.files.push({ do: 'write', path, before, after });
    const carried = as === 'file' ? (await site.metadata.read(file)).words : {};
    written[path] = writtenInWords(item.words, carried);
  }
  plan.folders = await newFolders(site, plan);
  plan.totals.items = plan.files.length;
  const count = plan.files.length === 1 ? '1 item' : `${plan.files.length.toLocaleString('en')} items`;
  plan.title =
    as === 'file'
      ? `Write the metadata of ${count} into the ${plan.files.length === 1 ? 'file' : 'files'}`
      : `Write the metadata of ${count} to XMP sidecar files`;
  return proposal;
}

async function hashHere(site: Pick<Site, 'folder'>, path: string): Promise<string | null> {
  return (await site.folder.facts(path)) ? sha256Of(await site.folder.read(path)) : null;
}
