import type { SuggestedTagsView } from '../../../api/suggested-tags.ts';
import { sorted } from '../../../core/paced.ts';
import type { Tagging } from '../../describe/tagging.ts';
import type { Site } from '../../app/site.ts';
import type { Said } from '../../db/suggested-tags.ts';
import { breathe } from '../../workers/breathe.ts';

/** Below this nothing is suggested, however low somebody sets the bar. */
const LEAST = 0.3;
/** Images that could not be looked at, of which each is told. */
const TOLD = 20;

/** An image for which tags are suggested. */
export interface Suggesting {
  id: number;
  path: string;
  sha256: string;
  tags: readonly string[];
  said: Said;
}

const folded = (tags: readonly string[]) => new Set(tags.map((tag) => tag.toLowerCase()));

/** What the service suggests for images, but for what they bear and what was refused. */
export async function suggestedTagsView(
  site: Pick<Site, 'items' | 'tags'>,
  tagging: Pick<Tagging, 'seen' | 'toSend'>,
  images: readonly Suggesting[],
): Promise<SuggestedTagsView> {
  const contents = [...new Set(images.map(({ sha256 }) => sha256))];
  const seen = await tagging.seen(contents);
  const spelled = new Map<string, { tag: string; known: boolean }>();
  const spelling = (label: string) => {
    const there = spelled.get(label);
    if (there) return there;
    const [tag] = site.tags.spelling([label]) as [string];
    const made = { tag, known: site.tags.isThere(tag) };
    spelled.set(label, made);
    return made;
  };
  const here = new Map<string, number | undefined>();
  const itemWith = (sha256: string) => {
    if (!here.has(sha256)) here.set(sha256, site.items.withHash(sha256)[0]?.id);
    return here.get(sha256);
  };
  const groups = new Map<string, SuggestedTagsView['groups'][number]>();
  const view: SuggestedTagsView = {
    images: images.length,
    unseen: 0,
    toSend: await tagging.toSend(contents),
    unread: { total: 0, first: [] },
    items: [],
    groups: [],
  };
  for (const { id, path, sha256, tags, said } of images) {
    await breathe();
    const one = seen.get(sha256);
    if (!one) view.unseen++;
    if (one && one.fault !== null && ++view.unread.total <= TOLD)
      view.unread.first.push({ path, why: one.fault });
    const not = folded([...tags, ...said.taken, ...said.refused]);
    let any = false;
    for (const { label, confidence, because = [], reason = '' } of one?.labels ?? []) {
      if (confidence < LEAST) continue;
      const { tag, known } = spelling(label);
      // Two labels may be spellings of one tag: the surer one came first.
      if (not.has(tag.toLowerCase())) continue;
      not.add(tag.toLowerCase());
      any = true;
      const group = groups.get(tag) ?? { tag, known, of: [] };
      groups.set(tag, group);
      const items = because.map(itemWith).filter((other) => other !== undefined && other !== id);
      group.of.push({ id, confidence, because: items as number[], reason });
    }
    if (any) view.items.push({ id, path, sha256 });
  }
  view.groups = [...groups.values()].sort(
    (a, b) => b.of.length - a.of.length || (a.tag.toLowerCase() < b.tag.toLowerCase() ? -1 : 1),
  );
  for (const group of view.groups)
    group.of = await sorted(group.of, breathe, (a, b) => b.confidence - a.confidence || a.id - b.id);
  return view;
}
