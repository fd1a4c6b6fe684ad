import type { SettingValue } from '../../core/plan/plan.ts';
import type { Db } from './database.ts';
import { storedJson } from './stored-json.ts';

/** What somebody has said about an item. */
export interface Comment {
  person: string;
  at: string;
  text: string;
  /** Names of those whom it calls. */
  calls: string[];
}
export type KeyedComment = Comment & { key: string; itemId: number };

interface Row {
  key: string;
  itemId: number;
  value: string;
}

/** What people say to each other about items. */
export class Comments {
  constructor(private readonly db: Db) {}

  value(key: string): SettingValue {
    const value = this.db.value<string>('select value from comment where key = ?', key);
    return value === undefined ? null : storedJson<SettingValue>(value, null, `comment ${key}`);
  }

  setValue(key: string, value: SettingValue): void {
    if (value === null) this.db.run('delete from comment where key = ?', key);
    else
      this.db.run(
        'insert or replace into comment (key, item_id, at, value) values (?, ?, ?, ?)',
        key,
        Number(key.slice(0, key.indexOf(' '))),
        (value as unknown as Comment).at,
        JSON.stringify(value),
      );
  }

  /** Those of an item, the oldest first. */
  of(itemId: number): KeyedComment[] {
    return this.read(
      this.db.all<Row>(
        'select key, item_id as itemId, value from comment where item_id = ? order by at, key',
        itemId,
      ),
    );
  }

  /** The newest that call somebody, of items that are still there. */
  calling(name: string, limit: number): KeyedComment[] {
    return this.read(
      this.db.all<Row>(
        `select key, item_id as itemId, value from comment join item on item.id = item_id
           where item.state <> 'absent' and exists
             (select 1 from json_each(comment.value, '$.calls') as called where called.value = ?)
           order by at desc, key limit ?`,
        name,
        limit,
      ),
    );
  }

  private read(rows: readonly Row[]): KeyedComment[] {
    return rows.flatMap(({ key, itemId, value }) => {
      const comment = storedJson<Comment | null>(value, null, `comment ${key}`);
      return comment ? [{ ...comment, key, itemId }] : [];
    });
  }
}
