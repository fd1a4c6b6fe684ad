import { freshId } from './fresh-id.ts';
import { baseName, folderOf, type SitePath } from '../../core/address/path.ts';
import { isItemPath, kindOf, mimeOf } from '../../core/address/kinds.ts';
import { TEXT_FIELD_KEYS, TEXT_FIELDS, type TextField, type Words } from '../../core/describe/fields.ts';
import { readContent } from '../../core/plan/draft-content.ts';
import type { ItemState, RecordStep } from '../../core/plan/plan.ts';
import { useOf } from '../../core/reference/survey.ts';
import { Fault } from '../fault.ts';
import type { FileFacts } from '../../core/media/facts.ts';
import type { Db } from './database.ts';
import { breathe } from '../workers/breathe.ts';

import type { Items } from './items.ts';
import { nameFaults } from './item-names.ts';

const WORD_COLUMNS = `${TEXT_FIELD_KEYS.map((field) => TEXT_FIELDS[field].column).join(', ')}, decorative, own`;

/** Records that are removed at once. */
const REMOVED_AT_ONCE = 100;

/** Changes the records of items. */
export class ItemRecords {
  constructor(
    private readonly db: Db,
    private readonly items: Items,
  ) {}

  /** Records that were made for a change which never came to be. */
  async removeUnborn(): Promise<void> {
    const ids = this.db
      .values<number>(`select id from item where state = 'absent' and outside = 0 and changed_at is null
           and not exists (select 1 from ledger_touch where what = 'record ' || item.id)`);
    await this.removeAbsent(ids);
  }

  /** Fills empty texts of records that no person has changed yet with what the file says of itself. */
  fillUntouched(sha256: string, words: Partial<Words>): void {
    const ids = this.db.values<number>(
      "select id from item where sha256 = ? and state = 'here' and changed_at is null",
      sha256,
    );
    this.db.write(() => {
      for (const id of ids) {
        const has = this.items.need(id).words;
        for (const [field, value] of Object.entries(words) as [keyof Words, string | string[]][]) {
          if (field === 'tags') {
            if (has.tags.length === 0) this.setTags(id, value as string[]);
          } else if (field in TEXT_FIELDS && has[field] === '') {
            const { column } = TEXT_FIELDS[field as TextField];
            this.db.run(`update item set ${column} = ? where id = ?`, value, id);
          }
        }
      }
    });
  }

  /** Adds a record for a file. */
  add(item: {
    path: SitePath;
    state: ItemState;
    facts: Pick<FileFacts, 'bytes' | 'sha256' | 'item'>;
    addedAt: string;
    addedBy: number | null;
    originalName: string | null;
    originalSha256?: string | null;
  }): number {
    const { facts } = item;
    const done = this.db.run(
      `insert into item (id, path, folder, name, state, kind, mime, bytes, sha256, width, height, duration, unreadable,
           added_at, added_by, original_name, original_sha256, name_faults, use)
         values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
      freshId(this.db, 'item'),
      item.path,
      folderOf(item.path),
      baseName(item.path),
      item.state,
      kindOf(item.path),
      mimeOf(item.path),
      facts.bytes,
      facts.sha256,
      facts.item?.width ?? null,
      facts.item?.height ?? null,
      facts.item?.duration ?? null,
      facts.item?.unreadable ?? null,
      item.addedAt,
      item.addedBy,
      item.originalName,
      item.originalSha256 ?? null,
      nameFaults(this.db, item.path),
      useOf(item.path, false, false),
    );
    return Number(done.lastInsertRowid);
  }

  /** A record for a file that is still to be made. */
  addAbsent(path: SitePath, personId: number, now: string): number {
    return this.add({
      path,
      state: 'absent',
      facts: { bytes: 0, sha256: '', item: undefined },
      addedAt: now,
      addedBy: personId,
      originalName: null,
    });
  }

  /** A record for a copy that is still to be made: the words, tags and owner are those of the other item. */
  addCopy(of: number, path: SitePath, personId: number, now: string): number {
    const done = this.db.run(
      `insert into item (id, path, folder, name, state, kind, mime, bytes, sha256, width, height, duration, unreadable,
           added_at, added_by, original_name, original_sha256, name_faults, use, ${WORD_COLUMNS}, owner_id)
         select @id, @path, @folder, @name, 'absent', kind, mime, bytes, sha256, width, height, duration, unreadable,
           @now, @personId, name, original_sha256, @faults, @use, ${WORD_COLUMNS}, owner_id from item where id = @of`,
      {
        path,
        folder: folderOf(path),
        name: baseName(path),
        now,
        personId,
        faults: nameFaults(this.db, path),
        use: useOf(path, false, false),
        of,
        id: freshId(this.db, 'item'),
      },
    );
    const id = Number(done.lastInsertRowid);
    this.db.run(
      'insert into item_tag (item_id, tag_id) select @id, tag_id from item_tag where item_id = @of',
      { id, of },
    );
    return id;
  }

  /** Takes records away whose files never came. */
  async removeAbsent(ids: readonly number[]): Promise<void> {
    for (let at = 0; at < ids.length; at += REMOVED_AT_ONCE) {
      this.db.write(() => {
        for (const id of ids.slice(at, at + REMOVED_AT_ONCE)) {
          if (this.items.get(id)?.state !== 'absent') continue;
          this.setTags(id, []);
          this.db.run('delete from item where id = ?', id);
        }
      });
      await breathe();
    }
  }

  /** Brings an item's facts in line with its file. */
  setFacts(id: number, facts: FileFacts, byOthers = false): void {
    this.db.run(
      'update item set bytes = ?, sha256 = ?, width = ?, height = ?, duration = ?, unreadable = ?, outside = ? where id = ?',
      facts.bytes,
      facts.sha256,
      facts.item?.width ?? null,
      facts.item?.height ?? null,
      facts.item?.duration ?? null,
      facts.item?.unreadable ?? null,
      Number(byOthers),
      id,
    );
  }

  /** Frees a path for another item, if one of some has it that get another one themselves before long. */
  private freePath(path: SitePath, id: number, exchanged: ReadonlySet<number>): void {
    const other = this.db.value<number>(
      "select id from item where path = ? and state = 'here' and id <> ?",
      path,
      id,
    );
    if (other !== undefined && exchanged.has(other))
      this.db.run("update item set path = '//' || id where id = ?", other);
  }

  /** An item whose path was freed for another one gets it back. */
  returnTo(id: number, path: SitePath): void {
    this.db.run("update item set path = ? where id = ? and path = '//' || id", path, id);
  }

  /** Follows a file that others moved or took away: only where it is changes, not its words. */
  setPlace(id: number, path: SitePath, state: ItemState, byOthers = false): void {
    this.db.run(
      'update item set path = ?, folder = ?, name = ?, name_faults = ?, state = ?, outside = ? where id = ?',
      path,
      folderOf(path),
      baseName(path),
      nameFaults(this.db, path),
      state,
      Number(byOthers),
      id,
    );
  }

  /** Follows a file that others have moved; where it lay is remembered until somebody has seen it. */
  followMove(id: number, from: SitePath, to: SitePath): void {
    this.setPlace(id, to, 'here');
    this.db.run('update item set moved_from = ? where id = ?', from, id);
  }

  /**
   * Applies one record step.
   * @param exchanged items of the same plan that change places with others: one that has a path which this one gets leaves it
   * @throws Fault 'stale-record' when the record has changed since the plan
   */
  apply(step: RecordStep, personId: number, now: string, exchanged: ReadonlySet<number> = new Set()): void {
    const after = step.after;
    if (after.path !== undefined && exchanged.has(step.itemId))
      this.freePath(after.path, step.itemId, exchanged);
    const sets: string[] = ['row_version = row_version + 1', 'changed_at = @now', 'changed_by = @personId'];
    const values: Record<string, string | number | null> = {
      now,
      personId,
      id: step.itemId,
      rowVersion: step.rowVersion,
    };
    const set = (column: string, value: string | number | null) => {
      sets.push(`${column} = @${column}`);
      values[column] = value;
    };
    if (after.path !== undefined) {
      set('path', after.path);
      set('folder', folderOf(after.path));
      set('name', baseName(after.path));
      set('name_faults', nameFaults(this.db, after.path));
      // Another ending: it has become a file of another format. What people have brought in stays what it was.
      if (isItemPath(after.path)) {
        set('kind', kindOf(after.path));
        set('mime', mimeOf(after.path));
      }
    }
    if (after.state !== undefined) {
      set('state', after.state);
      set('aside_at', after.state === 'aside' ? now : null);
    }
    for (const field of TEXT_FIELD_KEYS)
      if (after[field] !== undefined) set(TEXT_FIELDS[field].column, after[field]);
    if (after.focal !== undefined) set('focal', after.focal);
    if (after.edit !== undefined) set('edit', after.edit);
    if (after.content !== undefined) {
      const content = readContent(after.content);
      for (const part of ['sha256', 'bytes', 'width', 'height'] as const) set(part, content[part]);
    }
    if (after.review !== undefined) set('review', after.review);
    if (after.due !== undefined) set('due', after.due);
    if (after.own !== undefined) set('own', JSON.stringify(after.own));
    if (after.owner !== undefined) {
      sets.push('owner_id = (select id from person where name = @owner)');
      values['owner'] = after.owner;
    }
    if (after.outside !== undefined) set('outside', Number(after.outside));
    if (after.movedFrom !== undefined) set('moved_from', after.movedFrom);
    if (after.family !== undefined) set('family', after.family);
    if (after.decorative !== undefined) set('decorative', Number(after.decorative));
    const done = this.db.run(
      `update item set ${sets.join(', ')} where id = @id and row_version = @rowVersion`,
      values,
    );
    if (done.changes !== 1) throw this.staleRecord(step.itemId);
    // The row's version is the one that was planned from, so its tags are those of then.
    if (after.tags !== undefined) this.setTags(step.itemId, after.tags, step.before.tags);
  }

  /** @throws Fault 'not-found' */
  versionOf(id: number): number {
    return this.items.need(id).rowVersion;
  }

  /** The first of some records that is not of the version it is expected in. */
  newerThan(steps: readonly { itemId: number; rowVersion: number }[]): number | undefined {
    const version = 'select row_version from item where id = ?';
    return steps.find(({ itemId, rowVersion }) => this.db.value(version, itemId) !== rowVersion)?.itemId;
  }

  /** What to tell a person whose change came after someone else's. Nothing of theirs has been saved. */
  staleRecord(id: number): Fault {
    const current = this.items.get(id);
    const who = current?.changedBy ? `${current.changedBy} changed` : 'Someone changed';
    return new Fault(
      'stale-record',
      `${who} this record while you had it open, so your change wasn’t saved.`,
      'Compare both versions and choose which to keep.',
      current,
    );
  }

  /** Only the difference is written; a tag that nothing bears any more is gone. @param had the tags that it has, when they are known */
  private setTags(id: number, tags: readonly string[], had = this.tagsOf(id)): void {
    const { db } = this;
    const idOf = 'select id from tag where name = ?';
    const tagId = (name: string) => db.get<{ id: number }>(idOf, name)?.id;
    const key = (name: string) => name.toLowerCase();
    const wanted = new Set(tags.map(key));
    for (const name of had) {
      if (wanted.has(key(name))) continue;
      const tag = tagId(name);
      db.run('delete from item_tag where item_id = ? and tag_id = ?', id, tag);
      db.run('delete from tag where id = @tag and not exists (select 1 from item_tag where tag_id = @tag)', {
        tag,
      });
    }
    const spelt = new Map(had.map((name) => [key(name), name]));
    for (const name of tags) {
      const before = spelt.get(key(name));
      if (before === name) continue;
      if (before !== undefined) {
        db.run('update tag set name = @name where name = @name', { name });
        continue;
      }
      const tag = tagId(name) ?? db.run('insert into tag (name) values (?)', name).lastInsertRowid;
      db.run('insert into item_tag (item_id, tag_id) values (?, ?) on conflict do nothing', id, tag);
    }
  }

  private tagsOf(id: number): string[] {
    return this.db.values<string>(
      'select tag.name from item_tag join tag on tag.id = item_tag.tag_id where item_id = ?',
      id,
    );
  }
}
