import type { DescribeView, WordDifferences } from '../../../api/items.ts';
import { fromPage, inLine } from '../../../core/describe/in-line.ts';
import { suggestionsFor } from '../../../core/describe/suggest.ts';
import { allPlacementContexts, placementContextsOf } from '../../describe/placement-contexts.ts';
import type { Site } from '../../app/site.ts';
import type { Item } from '../../db/item-rows.ts';
import { viewOf } from '../../db/item-view.ts';
import type { Tagging } from '../../describe/tagging.ts';
import { suggestedTagsView } from './suggested-tags.ts';
import { lookAlikes, unconfirmedOf } from './item.ts';

/** So many differences are shown at once; the others come when these are done. */
const SHOWN = 1000;

export async function describeView(
  site: Pick<
    Site,
    | 'folder'
    | 'index'
    | 'items'
    | 'families'
    | 'references'
    | 'contents'
    | 'alikes'
    | 'pool'
    | 'metadata'
    | 'suggestedTags'
    | 'tags'
  >,
  item: Item,
  tagging: Tagging,
): Promise<DescribeView> {
  const [{ contexts, more }, embedded] = await Promise.all([
    placementContextsOf(site, item),
    item.state === 'here' ? site.metadata.read(await site.folder.locate(item.path)) : undefined,
  ]);
  const alike = lookAlikes(site, item.id)
    .slice(1, 6)
    .flatMap((sha256) => site.items.withHash(sha256))
    .filter((other) => other.id !== item.id)
    .slice(0, 6);
  const textInside = site.contents.recognised(item.sha256);
  return {
    item: viewOf(item),
    contexts,
    more,
    textInside: textInside ?? null,
    unconfirmed: unconfirmedOf(site, item),
    suggestedTags: await sureTags(site, item, tagging),
    suggestions: suggestionsFor({
      path: item.path,
      words: item.words,
      embedded: embedded?.words ?? {},
      contexts,
      alike,
      textInside: textInside ?? '',
    }),
  };
}

/** Below this a tag is not suggested beside the record, and no more of them. */
const SURE = 0.6;
const MOST_TAGS = 6;

async function sureTags(
  site: Pick<Site, 'items' | 'tags' | 'suggestedTags'>,
  { id, path, sha256, words, kind, sizeOf }: Item,
  tagging: Tagging,
): Promise<DescribeView['suggestedTags']> {
  if (!tagging.isSet || kind !== 'image' || sizeOf !== null) return [];
  const said = site.suggestedTags.said(id);
  // How many images a run would send is not asked here: that goes through all tagged images.
  const asked = {
    seen: (contents: readonly string[]) => tagging.seen(contents),
    toSend: () => Promise.resolve(0),
  };
  const { groups } = await suggestedTagsView(site, asked, [{ id, path, sha256, tags: words.tags, said }]);
  return groups
    .map(({ tag, of }) => ({ tag, confidence: of[0]!.confidence }))
    .filter(({ confidence }) => confidence >= SURE)
    .sort((one, other) => other.confidence - one.confidence)
    .slice(0, MOST_TAGS);
}

export async function wordDifferences(
  site: Pick<Site, 'folder' | 'index' | 'items' | 'references' | 'pool'>,
  paths: string[] | undefined,
  progress: (done: number, total: number, what: string) => void,
): Promise<WordDifferences> {
  const differences: WordDifferences['differences'] = [];
  let pages = 0;
  await allPlacementContexts(
    site,
    paths,
    (_page, contexts) => {
      const before = differences.length;
      for (const one of contexts) {
        const item = site.items.bearerAt(one.path);
        if (
          !item ||
          differences.length >= SHOWN ||
          !(inLine(one, item.words, item) ?? fromPage(one, item.words))
        )
          continue;
        differences.push({
          ...one,
          itemId: item.id,
          recordAlt: item.words.alt,
          recordTitle: item.words.title,
          file: { path: item.path, bytes: item.bytes },
          decorative: item.words.decorative,
        });
      }
      if (differences.length > before) pages++;
    },
    progress,
  );
  differences.sort((a, b) => (a.page === b.page ? a.start - b.start : a.page < b.page ? -1 : 1));
  return { differences, pages };
}
