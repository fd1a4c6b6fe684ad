import type { Label } from '../../core/tagging/protocol.ts';
import type { SettingValue } from '../../core/plan/plan.ts';
import type { Db } from './database.ts';
import { map, mapOf } from '../../core/paced.ts';
import { breathe } from '../workers/breathe.ts';
import type { Reader } from './reader.ts';
import { storedJson } from './stored-json.ts';

/** What people said to the tags that were suggested for an item. */
export interface Said {
  /** Borne by the item, and not confirmed by anybody yet. */
  taken: string[];
  /** Not suggested again. */
  refused: string[];
}

/** An image that people have tagged: its content, and their tags. */
export interface TaggedImage {
  sha256: string;
  tags: string[];
}

/** What a service said of an image. */
export interface SeenImage {
  labels: Label[];
  /** Why it would not look at it; null: it did. */
  fault: string | null;
}

/** Of tags that were taken, those that are still borne; what somebody has removed since is as good as refused. */
export function standing(borne: readonly string[], taken: readonly string[]): string[] {
  const there = new Set(taken.map((tag) => tag.toLowerCase()));
  return borne.filter((tag) => there.has(tag.toLowerCase()));
}

/** Images that stand for themselves, on the site. */
const IMAGES = "item.state = 'here' and item.kind = 'image' and item.size_of is null";

/** Read, and written, between two breaths of the server's thread. */
const READ_AT_ONCE = 200;
const WRITTEN_AT_ONCE = 1000;

/** Tags that a service suggests: what it has seen, what is to be seen, what people said. */
export class SuggestedTags {
  constructor(private readonly db: Db) {}

  said(itemId: number): Said {
    const rows = this.db.all<{ tag: string; said: 'taken' | 'refused' }>(
      'select tag, said from suggested_tag where item_id = ? order by tag',
      itemId,
    );
    const those = (which: 'taken' | 'refused') =>
      rows.filter(({ said }) => said === which).map(({ tag }) => tag);
    return { taken: those('taken'), refused: those('refused') };
  }

  /** What was said of many, by item; those of which nothing was are there too. */
  async saidOf(itemIds: readonly number[]): Promise<Map<number, Said>> {
    const all = new Map<number, Said>(itemIds.map((id) => [id, { taken: [], refused: [] }]));
    for (let at = 0; at < itemIds.length; at += READ_AT_ONCE) {
      const rows = this.db.all<{ id: number; tag: string; said: 'taken' | 'refused' }>(
        `select item_id as id, tag, said from suggested_tag
         where item_id in (select value from json_each(?)) order by item_id, tag`,
        JSON.stringify(itemIds.slice(at, at + READ_AT_ONCE)),
      );
      for (const { id, tag, said } of rows) all.get(id)![said].push(tag);
      await breathe();
    }
    return all;
  }

  /** For plans: null when nothing was said. */
  value(key: string): SettingValue {
    const said = this.said(Number(key));
    return said.taken.length + said.refused.length === 0 ? null : { ...said };
  }

  setValue(key: string, value: SettingValue): void {
    const itemId = Number(key);
    this.db.run('delete from suggested_tag where item_id = ?', itemId);
    const { taken, refused } = (value ?? { taken: [], refused: [] }) as unknown as Said;
    const add = 'insert or replace into suggested_tag (item_id, tag, said) values (?, ?, ?)';
    for (const tag of refused) this.db.run(add, itemId, tag, 'refused');
    for (const tag of taken) this.db.run(add, itemId, tag, 'taken');
  }

  /** Images that people have tagged, those that were changed last first; what was suggested counts once it is confirmed. */
  async tagged(reader: Reader, most: number): Promise<TaggedImage[]> {
    const rows = await reader.rows<{ sha256: string; tags: string }>(
      `select item.sha256, json_group_array(tag.name) as tags from item
           join item_tag on item_tag.item_id = item.id join tag on tag.id = item_tag.tag_id
           left join suggested_tag on suggested_tag.item_id = item.id and suggested_tag.tag = tag.name
             and suggested_tag.said = 'taken'
         where ${IMAGES} and suggested_tag.tag is null
         group by item.sha256 order by max(item.changed_at) desc, item.sha256 limit @most`,
      { most },
    );
    return map(rows, breathe, ({ sha256, tags }) => ({
      sha256,
      tags: [...new Set(storedJson<string[]>(tags, [], 'the tags of an image'))].sort(),
    }));
  }

  /** What a service said of some images; those that it has not seen are missing. */
  async seen(service: string, contents: readonly string[]): Promise<Map<string, SeenImage>> {
    const seen = new Map<string, SeenImage>();
    for (let at = 0; at < contents.length; at += READ_AT_ONCE) {
      const rows = this.db.all<{ sha256: string; labels: string; fault: string | null }>(
        `select sha256, labels, fault from image_label
         where service = ? and sha256 in (select value from json_each(?))`,
        service,
        JSON.stringify(contents.slice(at, at + READ_AT_ONCE)),
      );
      for (const { sha256, labels, fault } of rows)
        seen.set(sha256, { labels: storedJson<Label[]>(labels, [], 'the labels of an image'), fault });
      await breathe();
    }
    return seen;
  }

  /** Which of some images a service has looked at. */
  async looked(service: string, contents: readonly string[]): Promise<Set<string>> {
    const looked = new Set<string>();
    for (let at = 0; at < contents.length; at += READ_AT_ONCE) {
      const some = this.db.values<string>(
        `select sha256 from image_label where service = ? and sha256 in (select value from json_each(?))`,
        service,
        JSON.stringify(contents.slice(at, at + READ_AT_ONCE)),
      );
      for (const sha256 of some) looked.add(sha256);
      await breathe();
    }
    return looked;
  }

  /** Keeps what a service says of an image, as it was sent or asked about again. */
  save(service: string, sha256: string, { labels, fault }: SeenImage): void {
    this.db.run(
      `insert into image_label (service, sha256, labels, taught, fault) values (?, ?, ?, '[]', ?)
       on conflict (service, sha256) do update set labels = excluded.labels, fault = excluded.fault`,
      service,
      sha256,
      JSON.stringify(labels),
      fault,
    );
  }

  /** A service does not have an image any more: it has to be sent again. */
  forget(service: string, sha256: string): void {
    this.db.run('delete from image_label where service = ? and sha256 = ?', service, sha256);
  }

  /** What a service has been told of images that it has: the tags, as JSON, by content. Of some, and of all that were told to it. */
  async taught(reader: Reader, service: string, some: readonly string[]): Promise<Map<string, string>> {
    const rows = await reader.rows<{ sha256: string; taught: string }>(
      `select sha256, taught from image_label where service = @service and fault is null
         and (taught <> '[]' or sha256 in (select value from json_each(@some)))`,
      { service, some: JSON.stringify(some) },
    );
    return mapOf(rows, breathe, ({ sha256, taught }) => [sha256, taught]);
  }

  setTaught(service: string, told: readonly TaggedImage[]): void {
    for (const { sha256, tags } of told)
      this.db.run(
        'update image_label set taught = ? where service = ? and sha256 = ?',
        JSON.stringify(tags),
        service,
        sha256,
      );
  }

  /** Images sent in a month. @param month as 2027-03 */
  sent(service: string, month: string): number {
    return (
      this.db.value<number>('select sent from service_use where service = ? and month = ?', service, month) ??
      0
    );
  }

  countSent(service: string, month: string): void {
    this.db.run(
      `insert into service_use (service, month, sent) values (?, ?, 1)
       on conflict (service, month) do update set sent = sent + 1`,
      service,
      month,
    );
  }

  /** Contents that are to be looked at, however often the server is started anew meanwhile. */
  async wanted(reader: Reader): Promise<string[]> {
    const rows = await reader.rows<{ sha256: string }>('select sha256 from label_wanted order by sha256', {});
    return rows.map(({ sha256 }) => sha256);
  }

  /** How many contents are to be looked at. */
  get waiting(): number {
    return this.db.value<number>('select count(*) from label_wanted') ?? 0;
  }

  async want(contents: readonly string[]): Promise<void> {
    await this.inParts(
      contents,
      'insert or ignore into label_wanted (sha256) select value from json_each(?)',
    );
  }

  /** One of those that were wanted has been looked at. */
  done(sha256: string): void {
    this.db.run('delete from label_wanted where sha256 = ?', sha256);
  }

  async wantNoMore(contents: readonly string[] | 'any'): Promise<void> {
    if (contents === 'any') this.db.write(() => this.db.run('delete from label_wanted'));
    else
      await this.inParts(
        contents,
        'delete from label_wanted where sha256 in (select value from json_each(?))',
      );
  }

  /** One write for each part: what is wanted may be told in any number of them. */
  private async inParts(contents: readonly string[], sql: string): Promise<void> {
    for (let at = 0; at < contents.length; at += WRITTEN_AT_ONCE) {
      const some = JSON.stringify(contents.slice(at, at + WRITTEN_AT_ONCE));
      this.db.write(() => this.db.run(sql, some));
      await breathe();
    }
  }
}
