import type { ItemText } from '../../../api/items.ts';
import { LIMITS } from '../../limits.ts';
import { PLAIN_TEXT, readText } from '../../media/document.ts';
import type { Site } from '../../app/site.ts';
import type { Item } from '../../db/item-rows.ts';

/** What an item says, to be read in place: its beginning, where it is long. */
export async function textOf(
  site: Pick<Site, 'folder' | 'blobs' | 'contents'>,
  item: Item,
): Promise<ItemText> {
  const text = PLAIN_TEXT.test(item.name)
    ? await readText(
        item.state === 'here' ? await site.folder.locate(item.path) : site.blobs.get(item.sha256),
      )
    : (site.contents.get(item.sha256)?.text ?? '');
  return { text, more: text.length >= LIMITS.textLength };
}
