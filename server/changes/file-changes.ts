import type { SitePath } from '../../core/address/path.ts';
import { each, map, mapOf, setOf } from '../../core/paced.ts';
import type { Plan } from '../../core/plan/plan.ts';
import type { SiteFolder } from '../files/site-folder.ts';
import type { Act, ActFacts, FileWriter } from '../files/file-writer.ts';
import type { LedgerRows } from '../db/ledger.ts';
import { breathe } from '../workers/breathe.ts';
import type { ApplyOptions } from './apply-options.ts';
import { compareFiles } from './moved-on.ts';
import type { BytesAt } from './plan-bytes.ts';
import {
  backActs,
  clearingActs,
  crowdedMoves,
  foldersNeeded,
  stagingActs,
  switchingActs,
  touchedFolders,
  unstagingActs,
  type Doing,
  type Marks,
} from './switching.ts';

export interface FileChangeParts {
  folder: SiteFolder;
  writer: FileWriter;
  rows: LedgerRows;
  /** What the last scan found of a file. */
  known: (path: SitePath) => { bytes: number; mtimeMs: number; sha256: string } | undefined;
  /** Whether the content store has these bytes. */
  isKept: (sha256: string) => boolean;
  /** Where new bytes of a plan are, by hash; undefined: they lie in the content store. */
  newBytes: (sha256: string) => BytesAt | undefined;
  /** SHA-256 of a file, off this thread. */
  hash: (file: string) => Promise<string>;
  onStep?: OnStep | undefined;
}

/** Called before each act on the disk or the database, with its name; tests end the process or fail it here. */
export type OnStep = (name: string) => void;

/** So many acts on files are done between two looks at whether it was stopped. */
const ACTS = 150;

/** The files of a ledger entry: made ready, put in place, taken back. Each may be done again after a crash. */
export class FileChanges {
  constructor(private readonly parts: FileChangeParts) {}

  /** Compares the files with the plan; what they are known by and their permissions are noted. */
  async compare(plan: Plan, { progress, signal }: ApplyOptions): Promise<Marks> {
    const stand = await compareFiles(plan, {
      folder: this.parts.folder,
      known: this.parts.known,
      hash: this.parts.hash,
      facts: (doings) => this.act(doings, 'files compared', { progress, signal }),
      signal,
    });
    await each(plan.files, breathe, (step) => {
      if (step.do !== 'remove') return;
      const { mode, owner } = stand.get(step.path) ?? step;
      Object.assign(step, { mode, owner });
    });
    return mapOf(stand, breathe, ([path, { mark }]) => [path, mark]);
  }

  /**
   * Does acts, each under its name as a step; tests that end the process at a step need them one by one.
   * @param apart they do not hang together, and may be done in any order
   */
  private async act(
    doings: readonly Doing[],
    what = '',
    { progress, signal }: ApplyOptions = {},
    apart = false,
  ): Promise<ActFacts[]> {
    const found: ActFacts[] = [];
    const together = this.parts.onStep ? 1 : ACTS;
    let acts: Act[] = [];
    const flush = async () => {
      if (acts.length === 0) return;
      const { writer } = this.parts;
      for (const facts of await (apart && together > 1 ? writer.doApart(acts) : writer.do(acts)))
        found.push(facts);
      acts = [];
    };
    for (const [at, doing] of doings.entries()) {
      await breathe();
      signal?.throwIfAborted();
      if (doing.name !== '') this.parts.onStep?.(doing.name);
      if ('act' in doing) acts.push(doing.act);
      else {
        // Everything before it is in place first.
        await flush();
        if ('make' in doing) await this.parts.folder.makeFolderFor(`${doing.make}/x`);
        else await this.parts.folder.removeEmptyFolder(doing.drop);
      }
      if (acts.length < together && at < doings.length - 1) continue;
      await flush();
      if (what !== '') progress?.(at + 1, doings.length, what);
    }
    return found;
  }

  /** Makes new files ready beside their places, and keeps what they replace. @param made gets the hashes that the content store had not yet */
  async stage(id: number, plan: Plan, made: string[], following: ApplyOptions): Promise<void> {
    for (const one of await foldersNeeded(plan)) {
      this.parts.onStep?.(`folder ${one}`);
      await this.parts.folder.makeFolderFor(`${one}/x`);
    }
    const doings = await stagingActs(id, plan, this.parts.newBytes);
    // When it fails, the content store is as it was.
    await each(doings, breathe, (doing) => {
      if ('act' in doing && doing.act.do === 'keep' && !this.parts.isKept(doing.act.sha256))
        made.push(doing.act.sha256);
    });
    const found = await this.act(doings, 'files made ready', following, true);
    const kept = new Set<string>();
    await each(doings, breathe, (doing, at) => {
      const act = (doing as { act: Act }).act;
      if (act.do === 'keep') kept.add(act.sha256.slice(0, 2));
      if (act.do !== 'stage') return;
      const { bytes, mtimeMs } = found[at]!;
      following.wrote?.(act.path, { bytes, mtimeMs });
    });
    await this.act([...kept].map((start) => ({ name: '', act: { do: 'sync-kept', start } })));
  }

  /** Puts everything in place. */
  async switchOver(id: number, plan: Plan, marks: Marks, { progress }: ApplyOptions): Promise<void> {
    const { folder, rows } = this.parts;
    const crowded = await crowdedMoves(plan);
    if (crowded.size > 0 && !rows.isCleared(id)) {
      await this.act(await clearingActs(id, plan, crowded, marks));
      // That this is done is kept: from then on an old place may hold another file already.
      rows.setCleared(id);
    }
    await this.act(await switchingActs(id, plan, crowded, marks), 'files put in place', { progress });
    for (const one of plan.leaves ?? []) await folder.removeEmptyFolder(one);
    await this.sync(plan);
  }

  private async sync(plan: Plan): Promise<void> {
    const kept = await setOf(plan.files, breathe, (step) =>
      step.do === 'remove' ? step.sha256.slice(0, 2) : undefined,
    );
    await this.act([
      ...(await touchedFolders(plan)).map((folder): Doing => ({ name: '', act: { do: 'sync', folder } })),
      ...[...kept].map((start): Doing => ({ name: '', act: { do: 'sync-kept', start } })),
    ]);
  }

  /** Takes away what was made ready, as nothing of it has been put in place. @param made as `stage` told */
  async unstage(id: number, plan: Plan, made: readonly string[] = []): Promise<void> {
    await this.act(await unstagingActs(id, plan));
    await this.act(await map(made, breathe, (sha256) => ({ name: '', act: { do: 'unkeep', sha256 } })));
    for (const one of [...(plan.makes ?? plan.folders)].reverse())
      await this.parts.folder.removeEmptyFolder(one);
  }

  /** Takes back whatever has been put in place. */
  async takeBack(id: number, plan: Plan): Promise<void> {
    for (const one of [...(plan.leaves ?? [])].reverse()) await this.parts.folder.makeFolderFor(`${one}/x`);
    await this.act(await backActs(id, plan, await crowdedMoves(plan)));
    await this.sync(plan);
  }
}
