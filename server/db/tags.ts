import type { TagSense } from '../../core/plan/settings.ts';
import type { Db } from './database.ts';
import type { Reader } from './reader.ts';

export interface TagCount {
  name: string;
  items: number;
}

const countsSql = (only: string) =>
  `select tag.name, count(distinct coalesce(item.size_of, item.id)) as items from tag join item_tag on item_tag.tag_id = tag.id
   join item on item.id = item_tag.item_id and item.state = 'here' ${only}
   group by tag.id order by tag.name collate nocase`;

/** Tags of the items on the site, with how many bear each; asked beside the server's own thread. */
export function allTagCounts(reader: Reader): Promise<TagCount[]> {
  return reader.rows(countsSql(''), {});
}

/** Tags of some items, with how many of those bear each. */
export function tagCountsOf(reader: Reader, ids: readonly number[]): Promise<TagCount[]> {
  return reader.rows(countsSql('and item_tag.item_id in (select value from json_each(@ids))'), {
    ids: JSON.stringify(ids),
  });
}

/** Tags of the items, their other spellings, and which lies below which. */
export class Tags {
  constructor(private readonly db: Db) {}

  /** Tags of the items on the site, with how many bear each. */
  counts(): TagCount[] {
    return this.db.all<TagCount>(countsSql(''));
  }

  /** All that are in use. */
  names(): string[] {
    return this.db.values<string>('select name from tag order by name');
  }

  /** Tags as they are written already, where they are: a tag is one in any case, and another spelling is the tag itself. */
  spelling(tags: readonly string[]): string[] {
    const written = 'select name from tag where name = ?';
    return tags.map((tag) => {
      const meant = this.tagOfSpelling(tag) ?? tag;
      return this.db.value<string>(written, meant) ?? meant;
    });
  }

  isThere(tag: string): boolean {
    return this.db.get('select 1 from tag where name = ?', tag) !== undefined;
  }

  tagOfSpelling(spelling: string): string | null {
    return (this.db.value('select tag from tag_spelling where spelling = ?', spelling) ?? null) as
      string | null;
  }

  above(tag: string): string | null {
    return (this.db.value('select above from tag_above where tag = ?', tag) ?? null) as string | null;
  }

  sense(): TagSense {
    return {
      spellings: this.db.all<TagSense['spellings'][number]>(
        'select spelling, tag from tag_spelling order by spelling',
      ),
      above: this.db.all<TagSense['above'][number]>('select tag, above from tag_above order by tag'),
    };
  }

  setSpelling(spelling: string, tag: string | null): void {
    this.db.run('delete from tag_spelling where spelling = ?', spelling);
    if (tag !== null) this.db.run('insert into tag_spelling (spelling, tag) values (?, ?)', spelling, tag);
  }

  setAbove(tag: string, above: string | null): void {
    this.db.run('delete from tag_above where tag = ?', tag);
    if (above !== null) this.db.run('insert into tag_above (tag, above) values (?, ?)', tag, above);
  }
}
