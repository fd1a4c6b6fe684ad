import type { Label } from '../../core/tagging/protocol.ts';
import type { SettingValue } from '../../core/plan/plan.ts';
import type { Db } from './database.ts';
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
  tagged(most: number): TaggedImage[] {
    return this.db
      .all<{ sha256: string; tags: string }>(
        `select item.sha256, json_group_array(tag.name) as tags from item
           join item_tag on item_tag.item_id = item.id join tag on tag.id = item_tag.tag_id
           left join suggested_tag on suggested_tag.item_id = item.id and suggested_tag.tag = tag.name
             and suggested_tag.said = 'taken'
         where ${IMAGES} and suggested_tag.tag is null
         group by item.sha256 order by max(item.changed_at) desc, item.sha256 limit ?`,
        most,
      )
      .map(({ sha256, tags }) => ({
        sha256,
        tags: [...new Set(storedJson<string[]>(tags, [], 'the tags of an image'))].sort(),
      }));
  }

  /** What a service said of some images; those that it has not seen are missing. */
  seen(service: string, contents: readonly string[]): Map<string, SeenImage> {
    const rows = this.db.all<{ sha256: string; labels: string; fault: string | null }>(
      `select sha256, labels, fault from image_label
       where service = ? and sha256 in (select value from json_each(?))`,
      service,
      JSON.stringify(contents),
    );
    return new Map(
      rows.map(({ sha256, labels, fault }) => [
        sha256,
        { labels: storedJson<Label[]>(labels, [], 'the labels of an image'), fault },
      ]),
    );
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

  /** What a service has been told of the images that it has: the tags, as JSON, by content. */
  taught(service: string): Map<string, string> {
    return new Map(
      this.db.tuples<[string, string]>(
        'select sha256, taught from image_label where service = ? and fault is null',
        service,
      ),
    );
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
  wanted(): string[] {
    return this.db.values<string>('select sha256 from label_wanted order by sha256');
  }

  want(contents: readonly string[]): void {
    this.db.run(
      'insert or ignore into label_wanted (sha256) select value from json_each(?)',
      JSON.stringify(contents),
    );
  }

  wantNoMore(contents: readonly string[] | 'any'): void {
    if (contents === 'any') this.db.run('delete from label_wanted');
    else
      this.db.run(
        'delete from label_wanted where sha256 in (select value from json_each(?))',
        JSON.stringify(contents),
      );
  }
}
