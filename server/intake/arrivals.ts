import { createHash } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { unlink } from 'node:fs/promises';
import { Transform, type Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { cleanName, numberedName, safeName } from '../../core/address/name.ts';
import { clashKey, extensionOf, joinPath, nameFault, type SitePath } from '../../core/address/path.ts';
import { kindOf } from '../../core/address/kinds.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import { applyProposal, proposeBringIn, type Incoming } from '../ledger/propose.ts';
import type { Site } from '../site/site.ts';
import { plainStem } from './door.ts';

/** At most this many bytes a file (4 GiB). */
export const BYTE_LIMIT = 4 * 1024 ** 3;

export interface Arrival {
  id: number;
  at: string;
  givenName: string;
  /** The name it will have. */
  name: string;
  kind: string;
  sha256: string;
  bytes: number;
  width: number | null;
  height: number | null;
  notes: string[];
  /** Items on the site with the same bytes. */
  sameAs: { id: number; path: SitePath }[];
}

interface Row {
  id: number;
  at: string;
  givenName: string;
  name: string;
  sha256: string;
  bytes: number;
  facts: string;
  notes: string;
}

/** Files between arriving and being brought in. */
export class Arrivals {
  constructor(private readonly site: Site) {}

  /**
   * Takes in one file's bytes and checks it. A refused file leaves nothing behind.
   * @throws Fault 'refused-file' with the sentence, 'too-large', 'disk-full'
   */
  async receive(body: Readable, givenName: string, personId: number): Promise<Arrival> {
    const { site } = this;
    const file = site.blobs.newArrival();
    try {
      const hash = createHash('sha256');
      let bytes = 0;
      const measure = new Transform({
        transform(chunk: Buffer, _encoding, done) {
          bytes += chunk.length;
          hash.update(chunk);
          done(bytes > BYTE_LIMIT ? tooLarge() : null, chunk);
        },
      });
      await pipeline(body, measure, createWriteStream(file, { flags: 'wx', flush: true }));
      const sha256 = hash.digest('hex');
      const answer = await site.pool.run('door', { file, name: givenName }, 60_000);
      if ('refused' in answer) throw new Fault('refused-file', answer.refused, 'Nothing was stored.');
      const { extension, notes } = answer.taken;
      const name = cleanName(safeName(plainStem(givenName) + extension));
      const facts = await site.pool.run('inspect', { file, path: name });
      if (facts.unreadable && kindOf(name) !== 'image') notes.push(facts.unreadable);
      await site.blobs.adopt(file, sha256);
      const done = site.db
        .prepare(
          'insert into arrival (at, person_id, given_name, name, sha256, bytes, facts, notes) values (?, ?, ?, ?, ?, ?, ?, ?)',
        )
        .run(
          site.now(),
          personId,
          givenName,
          name,
          sha256,
          bytes,
          JSON.stringify(facts),
          JSON.stringify(notes),
        );
      return this.need(Number(done.lastInsertRowid), personId);
    } catch (error) {
      await unlink(file).catch((missing: NodeJS.ErrnoException) => {
        if (missing.code !== 'ENOENT') throw missing;
      });
      if ((error as NodeJS.ErrnoException).code === 'ENOSPC') {
        throw new Fault(
          'disk-full',
          'The disk is full, so the file was not stored.',
          'Free some space and send it again.',
        );
      }
      throw error;
    }
  }

  list(personId: number): Arrival[] {
    const rows = this.site.db
      .prepare(
        'select id, at, given_name as givenName, name, sha256, bytes, facts, notes from arrival where person_id = ? order by id',
      )
      .all(personId) as Row[];
    return rows.map((row) => this.view(row));
  }

  /** @throws Fault 'not-found' */
  need(id: number, personId: number): Arrival {
    const row = this.site.db
      .prepare(
        'select id, at, given_name as givenName, name, sha256, bytes, facts, notes from arrival where id = ? and person_id = ?',
      )
      .get(id, personId) as Row | undefined;
    if (!row)
      throw new Fault(
        'not-found',
        'This file no longer waits to be brought in.',
        'Look for it in the Library, or send it again.',
      );
    return this.view(row);
  }

  /** Gives the file the name it will have. The extension stays. */
  rename(id: number, personId: number, name: string): Arrival {
    const arrival = this.need(id, personId);
    const fault = nameFault(name) ?? (name.startsWith('.') ? 'A name cannot start with a dot.' : undefined);
    if (fault) throw new Fault('bad-request', fault, 'Choose another name.');
    if (extensionOf(name) !== extensionOf(arrival.name)) {
      throw new Fault(
        'bad-request',
        `The name must keep its extension “${extensionOf(arrival.name)}”.`,
        'Change only what stands before it.',
      );
    }
    this.site.db.prepare('update arrival set name = ? where id = ?').run(name.normalize('NFC'), id);
    return this.need(id, personId);
  }

  async drop(id: number, personId: number): Promise<void> {
    const { sha256 } = this.need(id, personId);
    this.site.db.prepare('delete from arrival where id = ?').run(id);
    await this.dropBlobIfIdle(sha256);
  }

  /** Brings files into a folder, as one change. Names that are taken get a number. Answers the entry and the items. */
  async bringIn(
    ids: readonly number[],
    folder: SitePath,
    personId: number,
  ): Promise<{ entryId: number; itemIds: number[]; plan: Plan }> {
    const { site } = this;
    await site.scan();
    const taken = new Set([...site.paths].map(clashKey));
    const incoming: Incoming[] = [];
    const arrivals = ids.map((id) => this.need(id, personId));
    for (const arrival of arrivals) {
      let path = joinPath(folder, arrival.name);
      for (let number = 2; taken.has(clashKey(path)); number++)
        path = joinPath(folder, numberedName(arrival.name, number));
      taken.add(clashKey(path));
      const { sha256, ...item } = JSON.parse(this.factsOf(arrival.id)) as { sha256: string };
      const itemId = site.items.add({
        path,
        state: 'absent',
        facts: { bytes: arrival.bytes, sha256, item },
        addedAt: site.now(),
        addedBy: personId,
        originalName: arrival.givenName,
      });
      incoming.push({ path, sha256: arrival.sha256, itemId, rowVersion: 1 });
    }
    const proposal = proposeBringIn(site, incoming);
    let entryId: number;
    try {
      entryId = await applyProposal(site, proposal, personId);
    } catch (error) {
      const remove = site.db.prepare("delete from item where id = ? and state = 'absent'");
      for (const one of incoming) remove.run(one.itemId);
      throw error;
    }
    const remove = site.db.prepare('delete from arrival where id = ?');
    for (const id of ids) remove.run(id);
    for (const one of incoming) await this.dropBlobIfIdle(one.sha256);
    return { entryId, itemIds: incoming.map((one) => one.itemId), plan: proposal.plan };
  }

  private factsOf(id: number): string {
    return this.site.db.prepare('select facts from arrival where id = ?').pluck().get(id) as string;
  }

  /** The content store keeps a second copy only while something waits for it or could bring it back. */
  private async dropBlobIfIdle(sha256: string): Promise<void> {
    const { db, blobs } = this.site;
    const waits = db.prepare('select 1 from arrival where sha256 = ?').get(sha256);
    const aside = db.prepare("select 1 from item where sha256 = ? and state <> 'here'").get(sha256);
    const image = db
      .prepare(
        `select 1 from ledger where plan like '%"before":"' || @sha256 || '"%' or plan like '%"after":"' || @sha256 || '"%' limit 1`,
      )
      .get({ sha256 });
    if (!waits && !aside && !image) await blobs.drop(sha256);
  }

  private view(row: Row): Arrival {
    const facts = JSON.parse(row.facts) as { width?: number; height?: number };
    return {
      id: row.id,
      at: row.at,
      givenName: row.givenName,
      name: row.name,
      kind: kindOf(row.name),
      sha256: row.sha256,
      bytes: row.bytes,
      width: facts.width ?? null,
      height: facts.height ?? null,
      notes: JSON.parse(row.notes) as string[],
      sameAs: this.site.items.withHash(row.sha256).map(({ id, path }) => ({ id, path })),
    };
  }
}

function tooLarge(): Fault {
  return new Fault('too-large', 'The file is larger than 4 GB.', 'Send a smaller one.');
}
