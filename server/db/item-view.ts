import type { ItemView } from '../../api/items.ts';
import { careMarks } from '../../core/describe/record.ts';
import type { Item } from './item-rows.ts';

/** An item as the interface gets it. */
export function viewOf(item: Item): ItemView {
  return { ...item, marks: careMarks(item) };
}
