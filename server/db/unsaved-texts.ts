import type { SitePath } from '../../core/address/path.ts';
import type { Db } from './database.ts';

export interface UnsavedText {
  /** Hash of the file that was opened. */
  base: string;
  text: string;
  savedAt: string;
}

/** What people write in documents before they save it. */
export class UnsavedTexts {
  constructor(private readonly db: Db) {}

  of(path: SitePath, personId: number): UnsavedText | undefined {
    return this.db.get<UnsavedText>(
      'select base, text, saved_at as savedAt from unsaved_text where path = ? and person_id = ?',
      path,
      personId,
    );
  }

  /** Who else is editing a document, the latest first. */
  others(path: SitePath, personId: number): { person: string; savedAt: string }[] {
    return this.db.all(
      `select person.name as person, saved_at as savedAt from unsaved_text join person on person.id = person_id
       where path = ? and person_id <> ? order by saved_at desc`,
      path,
      personId,
    );
  }

  keep(path: SitePath, personId: number, { base, text, savedAt }: UnsavedText): void {
    this.db.run(
      'insert or replace into unsaved_text (path, person_id, base, text, saved_at) values (?, ?, ?, ?, ?)',
      path,
      personId,
      base,
      text,
      savedAt,
    );
  }

  drop(path: SitePath, personId: number): void {
    this.db.run('delete from unsaved_text where path = ? and person_id = ?', path, personId);
  }
}
