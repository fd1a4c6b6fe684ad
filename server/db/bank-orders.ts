import { BankOrder } from '../../core/bank/protocol.ts';
import type { Db } from './database.ts';
import { storedJson } from './stored-json.ts';

type Row = { image: string; receipt: string; terms: string; file: string };

/** What this site has taken or bought from image banks: nothing that it may still show is bought again. */
export class BankOrders {
  constructor(private readonly db: Db) {}

  /** Orders whose licence has not ended, by image. @param today as 2027-11-30 */
  standing(bank: string, images: readonly string[], today: string): Map<string, BankOrder> {
    const rows = this.db.all<Row>(
      `select image, receipt, terms, file from bank_order where bank = ? and image in (select value from json_each(?))
         and receipt is not null and coalesce(terms ->> '$.ends', '9999') >= ? order by at`,
      bank,
      JSON.stringify(images),
      today,
    );
    return new Map(
      rows.map(({ image, receipt, terms, file }) => [
        image,
        BankOrder.parse({ receipt, file, terms: storedJson<unknown>(terms, {}, `order ${receipt}`) }),
      ]),
    );
  }

  /** The key of an order that was asked for and not answered. */
  unanswered(bank: string, image: string): string | undefined {
    return this.db.value<string>(
      'select key from bank_order where bank = ? and image = ? and receipt is null',
      bank,
      image,
    );
  }

  add(one: { bank: string; image: string; key: string; at: string; personId: number }): void {
    this.db.run(
      'insert into bank_order (bank, image, key, at, person_id) values (@bank, @image, @key, @at, @personId)',
      one,
    );
  }

  answered(key: string, { receipt, terms, file }: BankOrder): void {
    this.db.run('update bank_order set receipt = @receipt, terms = @terms, file = @file where key = @key', {
      key,
      receipt,
      terms: JSON.stringify(terms),
      file,
    });
  }
}
