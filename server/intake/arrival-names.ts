import { safeName } from '../../core/address/name.ts';
import { kindOf } from '../../core/address/kinds.ts';
import { extensionOf, joinPath } from '../../core/address/path.ts';
import { folderWithin, proposedName } from '../../core/intake/arrival-names.ts';
import { ruleFor } from '../../core/intake/rules.ts';
import { compose, Counting } from '../../core/naming/compose.ts';
import { followsPattern } from '../../core/naming/follows.ts';
import type { Site } from '../app/site.ts';
import type { ArrivalRow } from '../db/arrivals.ts';

/**
 * The name an arrival is proposed: by its words, and by its folder's pattern, or that of its folder's treatment, unless it follows that already. A counter
 * goes on behind what lies there and what stands further up on the list.
 */
export function nameFor(
  site: Pick<Site, 'items' | 'arrivals' | 'rules'>,
  row: ArrivalRow,
  takenAt = row.facts.takenAt ?? null,
): { name: string; plain: string } {
  const folder = folderWithin(row.folder, row.below);
  const { words } = row;
  const proposed = proposedName(row.givenName, extensionOf(row.name), {
    title: words.title || shortCaption(words.caption),
    takenAt,
    folder,
  });
  const rule = ruleFor(folder, site.rules.all());
  const treated = kindOf(row.name) === 'image' && row.choices.treat !== 'keep' && !row.recipe;
  const pattern = rule.pattern ?? (treated ? (rule.treatment?.pattern ?? null) : null);
  if (!pattern || followsPattern(proposed.plain, pattern)) return proposed;
  const there = [...site.items.namesIn(folder), ...site.arrivals.namesBefore(row)];
  const counted = there.filter((name) => followsPattern(name, pattern)).length;
  const facts = {
    id: row.id,
    path: joinPath(folder, proposed.plain),
    kind: kindOf(row.name),
    title: words.title ?? '',
    alt: words.alt ?? '',
    caption: words.caption ?? '',
    tags: words.tags ?? [],
    takenAt,
    addedAt: row.at,
    width: row.facts.width ?? null,
    height: row.facts.height ?? null,
    pages: [],
    own: words.own ?? {},
  };
  const { stem } = compose(pattern, facts, new Counting(pattern, counted));
  if (stem === '') return proposed;
  const name = safeName(stem + extensionOf(row.name));
  return { name, plain: name };
}

/** A caption of a few words names an image as well as a title does. */
function shortCaption(caption = ''): string {
  return caption.split(/\s+/).length <= 10 ? caption : '';
}
