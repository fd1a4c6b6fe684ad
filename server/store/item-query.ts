import type { Kind } from '../../core/address/kinds.ts';
import type { SitePath } from '../../core/address/path.ts';
import type { ItemState } from '../../core/plan/plan.ts';
import type { Use } from '../../core/reference/survey.ts';

export interface ItemQuery {
  state: ItemState;
  folder?: SitePath | undefined;
  /** Also everything below the folder. */
  below: boolean;
  kind?: Kind | undefined;
  use?: Use | undefined;
  /** Care marks that are still to be done. */
  lacks?: 'described' | 'named' | 'filed' | 'placed' | undefined;
  /** Touched by this ledger entry. */
  entry?: number | undefined;
  /** Words that must all stand in name, path, words or tags. */
  words: string[];
  sort: 'kind' | 'name' | 'added' | 'bytes' | 'placements' | 'path';
  offset: number;
  limit: number;
}

/** As needsAlt in core/describe, for rows. */
export const NEEDS_ALT = "mime <> 'image/vnd.microsoft.icon'";

/** A query as SQL for rows of item, with its values. */
export function conditions(query: ItemQuery): { where: string; values: Record<string, string | number> } {
  const where = ['item.state = @state'];
  const values: Record<string, string | number> = { state: query.state };
  if (query.folder !== undefined && !(query.folder === '' && query.below)) {
    values['folder'] = query.folder;
    if (query.below) {
      // '0' is the character after '/': everything below the folder lies between the two.
      values['from'] = `${query.folder}/`;
      values['to'] = `${query.folder}0`;
      where.push('(item.folder = @folder or (item.folder >= @from and item.folder < @to))');
    } else where.push('item.folder = @folder');
  }
  if (query.entry !== undefined) {
    values['entry'] = query.entry;
    where.push(
      `(exists (select 1 from ledger_touch where entry_id = @entry and what = 'record ' || item.id)
        or exists (select 1 from ledger_touch where entry_id = @entry and what = 'file ' || item.path))`,
    );
  }
  if (query.kind) {
    values['kind'] = query.kind;
    where.push('item.kind = @kind');
  }
  if (query.use) {
    values['use'] = query.use;
    where.push('item.use = @use');
  }
  if (query.lacks === 'described') {
    where.push(
      `((item.kind = 'image' and ${NEEDS_ALT} and item.alt = '' and item.decorative = 0) or (item.kind <> 'image' and item.title = ''))`,
    );
  } else if (query.lacks === 'named') where.push("item.name_faults <> ''");
  else if (query.lacks === 'filed') {
    where.push("(item.folder = '' or not exists (select 1 from item_tag where item_tag.item_id = item.id))");
  } else if (query.lacks === 'placed') where.push("item.use <> 'placed'");
  for (const [index, word] of query.words.entries()) {
    const key = `word${index}`;
    values[key] = `%${word.replace(/[\\%_]/g, '\\$&')}%`;
    where.push(
      `(item.path like @${key} escape '\\' or item.alt like @${key} escape '\\' or item.title like @${key} escape '\\'
        or exists (select 1 from content where content.sha256 = item.sha256 and content.text like @${key} escape '\\')
        or item.caption like @${key} escape '\\' or item.description like @${key} escape '\\' or item.credit like @${key} escape '\\'
        or exists (select 1 from item_tag join tag on tag.id = item_tag.tag_id
          where item_tag.item_id = item.id and tag.name like @${key} escape '\\'))`,
    );
  }
  return { where: where.join(' and '), values };
}
