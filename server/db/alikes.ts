import type { Relation } from '../../core/picture/alike.ts';
import type { Db } from './database.ts';

/** Two contents that show the same; `one` is the smaller hash. */
export interface AlikePair {
  one: string;
  other: string;
  relation: Relation;
  /** 0 (just accepted) to 1. */
  sure: number;
  /** Accepted by hardly any structure: it joins no others. */
  weak: boolean;
}

/** Images that show the same in other bytes, by the hashes of their contents. */
export class Alikes {
  constructor(private readonly db: Db) {}

  /** What shows the same as some content, the surest first. */
  of(sha256: string): { sha256: string; relation: Relation; sure: number }[] {
    return this.db.all<{ sha256: string; relation: Relation; sure: number }>(
      `select other as sha256, relation, sure from alike where one = @sha256
         union all select one, relation, sure from alike where other = @sha256 order by sure desc, sha256`,
      { sha256 },
    );
  }

  /** All pairs of which both are on the site. */
  here(): AlikePair[] {
    const rows = this.db.all<
      Omit<AlikePair, 'weak'> & { weak: number }
    >(`select one, other, relation, sure, weak from alike
         where exists (select 1 from item where sha256 = one and state = 'here')
           and exists (select 1 from item where sha256 = other and state = 'here') order by one, other`);
    return rows.map((row) => ({ ...row, weak: row.weak === 1 }));
  }

  /** Images on the site or at the door for which no others have been looked for yet. */
  unmatched(most: number): string[] {
    return this.db.values<string>(
      `select sha256 from content where matched = 0 and windows is not null
           and (exists (select 1 from item where item.sha256 = content.sha256 and item.state = 'here')
             or exists (select 1 from arrival where arrival.sha256 = content.sha256)) limit ?`,
      most,
    );
  }

  /** What was found for some images. */
  save(matched: readonly string[], pairs: readonly AlikePair[]): void {
    const insert = 'insert or replace into alike (one, other, relation, sure, weak) values (?, ?, ?, ?, ?)';
    const mark = 'update content set matched = 1 where sha256 = ?';
    this.db.write(() => {
      for (const { one, other, relation, sure, weak } of pairs)
        this.db.run(insert, one, other, relation, sure, Number(weak));
      for (const sha256 of matched) this.db.run(mark, sha256);
    });
  }
}
