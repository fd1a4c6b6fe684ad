import { readFile, rm } from 'node:fs/promises';
import { joinPath, stemOf, type SitePath } from '../../core/address/path.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import type { Site } from '../site/site.ts';
import { addresses } from './addresses.ts';
import { keep, needAllHere, newFolders, type Progress, type Proposal } from './proposal.ts';

/** Formats that are made smaller without changing what they are. */
const SHRUNK = new Set(['image/jpeg', 'image/png', 'image/webp', 'image/avif']);
/** A copy that saves less is not worth a generation of losses. */
const WORTH = 0.95;

/** Plans pictures with as many pixels as the widest place needs twice over, at the same address; the bytes of before become a version. */
export async function proposeLighter(
  site: Site,
  ids: readonly number[],
  progress?: Progress,
): Promise<Proposal> {
  await site.scan();
  const items = needAllHere(site, ids);
  const widest = new Map(site.findings.standings(ids).map((one) => [one.id, one.widest]));
  const plan = emptyPlan('lighten', '');
  const proposal: Proposal = { plan, contents: new Map() };
  let done = 0;
  for (const item of items) {
    progress?.(done++, items.length, 'pictures made lighter');
    const wide = widest.get(item.id) ?? null;
    if (!SHRUNK.has(item.mime) || !item.width || wide === null || item.width <= 2 * wide) {
      plan.warnings.push(`“${item.path}” stays as it is: no page says that it is shown smaller.`);
      continue;
    }
    const bytes = await lighter(site, item, 2 * wide, item.mime);
    if (bytes.length > item.bytes * WORTH) {
      plan.warnings.push(`“${item.path}” stays as it is: hardly anything would be saved.`);
      continue;
    }
    plan.files.push({ do: 'write', path: item.path, before: item.sha256, after: keep(proposal, bytes) });
    plan.totals.items++;
    plan.totals.bytesFreed += item.bytes - bytes.length;
  }
  plan.title = `Make ${plan.totals.items === 1 ? '1 picture' : `${plan.totals.items} pictures`} lighter`;
  return proposal;
}

/** A copy of a picture that is so many pixels wide at most. */
export async function lighter(
  site: Site,
  item: { path: string },
  width: number,
  mime: string,
): Promise<Uint8Array> {
  const work = site.blobs.newArrival();
  try {
    await site.pool.run('shrink', {
      file: await site.folder.locate(item.path),
      to: work,
      width,
      height: 100_000,
      mime,
      mostBytes: null,
    });
    return await readFile(work);
  } finally {
    await rm(work, { force: true });
  }
}

/**
 * Plans photographs that are PNGs as JPEGs, each under its name with another ending: every reference follows, a redirect is kept, and the
 * bytes of before become a version. What has transparent parts, or would hardly be lighter, stays.
 */
export async function proposeJpegs(
  site: Site,
  ids: readonly number[],
  progress?: Progress,
): Promise<Proposal> {
  await site.scan();
  const items = needAllHere(site, ids);
  const made = new Map<number, Uint8Array>();
  const warnings: string[] = [];
  let done = 0;
  for (const item of items) {
    progress?.(done++, items.length, 'pictures encoded');
    if (item.mime === 'image/jpeg')
      warnings.push(
        `“${item.path}” stays as it is: a drawing that was a JPEG gets no clean edges again; replace it by its original.`,
      );
    else if (item.mime !== 'image/png' || !item.width)
      warnings.push(`“${item.path}” stays as it is: it is no PNG that can be read.`);
    else if (site.contents.isOpaque(item.sha256) === undefined)
      warnings.push(`“${item.path}” stays as it is: it has not been looked at yet, and may be transparent.`);
    else if (!site.contents.isOpaque(item.sha256))
      warnings.push(
        `“${item.path}” stays as it is: parts of it are transparent, and JPEG has no such parts.`,
      );
    else {
      const bytes = await lighter(site, item, item.width, 'image/jpeg');
      if (bytes.length > item.bytes * WORTH)
        warnings.push(`“${item.path}” stays as it is: hardly anything would be saved.`);
      else made.set(item.id, bytes);
    }
  }
  const turned = items.filter((item) => made.has(item.id));
  const to = new Map(
    turned.map((item): [number, SitePath] => [item.id, joinPath(item.folder, `${stemOf(item.name)}.jpg`)]),
  );
  const proposal =
    turned.length > 0
      ? await addresses(site, turned, to, [], progress, true)
      : { plan: emptyPlan('convert', ''), contents: new Map<string, Uint8Array>() };
  const { plan } = proposal;
  plan.kind = 'convert';
  plan.title = `Make ${turned.length === 1 ? '1 picture a JPEG' : `${turned.length} pictures JPEGs`}`;
  plan.warnings.push(...warnings);
  plan.totals.items = turned.length;
  if (plan.clashes.length > 0) return proposal;
  for (const item of turned) {
    const bytes = made.get(item.id)!;
    plan.files.push({
      do: 'write',
      path: to.get(item.id)!,
      before: item.sha256,
      after: keep(proposal, bytes),
    });
    plan.totals.bytesFreed += item.bytes - bytes.length;
  }
  plan.folders = newFolders(site, plan);
  return proposal;
}
