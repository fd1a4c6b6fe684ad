import { rm } from 'node:fs/promises';
import { joinPath, clashKey, extensionOf, nameFault, type SitePath } from '../../core/address/path.ts';
import { targetFault } from '../../core/address/target.ts';
import { kindOf } from '../../core/address/kinds.ts';
import { numberedName } from '../../core/address/name.ts';
import type { Words } from '../../core/describe/fields.ts';
import { givenByRule } from '../../core/intake/rules.ts';
import { findingsOf, outcomeOf } from '../../core/intake/findings.ts';
import type { Choices, Finding, Outcome } from '../../core/intake/finding.ts';
import { canBeEdited } from '../../core/intake/preparing.ts';
import { writeEdit, type Original } from '../../core/picture/recipe/edit.ts';
import { geometry } from '../../core/picture/recipe/geometry.ts';
import { isNothing, normalise, NO_RECIPE, type Recipe } from '../../core/picture/recipe/recipe.ts';
import { tidyWords } from '../../core/plan/words.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import { remakeSizes } from '../changes/family.ts';
import { proposeBringInDrafts } from '../changes/drafts.ts';
import { proposeBringIn, type Incoming } from '../changes/files.ts';
import { recordStep, type Source } from '../changes/prepare.ts';
import { applyProposal, type Applying } from '../changes/apply.ts';
import { collectBlob } from '../files/collect-blob.ts';
import { nameFor } from './arrival-names.ts';
import { sentMime } from './preparing.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { breathe } from '../workers/breathe.ts';
import type { ArrivalRow } from '../db/arrivals.ts';

/** An arrival as it is shown. */
export interface Arrival {
  id: number;
  at: string;
  givenName: string;
  name: string;
  kind: string;
  state: ArrivalRow['state'];
  upload: string | null;
  refused: string;
  sha256: string;
  bytes: number;
  width: number | null;
  height: number | null;
  /** What goes to the site instead of what was sent. */
  ready: { sha256: string; bytes: number; width: number | null; height: number | null } | null;
  folder: SitePath;
  below: SitePath;
  words: Partial<Words>;
  /** What a person made of it on the bench. */
  recipe: Recipe | null;
  /** It can be edited on the bench. */
  editable: boolean;
  findings: Finding[];
  outcome: Outcome['do'];
}

/** What a person sets for one or many arrivals. */
export interface ArrivalChange {
  folder?: SitePath | undefined;
  name?: string | undefined;
  words?: Partial<Words> | undefined;
  /** What is made of the image; null: it stays as it was sent. */
  recipe?: Recipe | null | undefined;
  addTags?: string[] | undefined;
  /** What the person says to suggested tags. */
  suggested?: { take: string[]; refuse: string[] } | undefined;
  choices?: Choices | undefined;
}

/** Files between arriving and being brought in. */
export class Arrivals {
  constructor(
    private readonly site: Applying &
      Pick<OpenedSite, 'families' | 'alikes' | 'rules' | 'checking' | 'tags' | 'suggestedTags'>,
  ) {}

  /** What has changed on a person's list since a revision of it; lets other work go on between rows. */
  async since(
    personId: number,
    after: number,
  ): Promise<{ revision: number; ids: number[]; changed: Arrival[] }> {
    const { arrivals } = this.site;
    const { revision } = arrivals;
    const { ids, changed } = arrivals.since(personId, after);
    const views: Arrival[] = [];
    for (const id of changed) {
      const row = arrivals.get(id);
      if (row) views.push(this.view(row));
      await breathe();
    }
    return { revision, ids, changed: views };
  }

  private row(id: number, personId: number): ArrivalRow {
    const row = this.site.arrivals.get(id);
    if (!row || row.personId !== personId)
      throw new Fault(
        'not-found',
        'This file is no longer waiting.',
        'Look for it in the Library, or upload it again.',
      );
    return row;
  }

  /** @throws Fault 'not-found' */
  need(id: number, personId: number): Arrival {
    return this.view(this.row(id, personId));
  }

  /** What was sent, as the bench edits it. @throws Fault when it can’t be edited */
  sourceOf(id: number, personId: number): Source & { bytes: number } {
    const row = this.row(id, personId);
    this.checkRecipe(row, NO_RECIPE);
    return {
      file: this.site.blobs.get(row.sha256),
      original: originalOf(row),
      bytes: row.bytes,
      recipe: row.recipe ?? NO_RECIPE,
    };
  }

  /** Sets what a person decides for arrivals, then prepares anew what must be. @throws Fault, then nothing is set */
  async change(ids: readonly number[], personId: number, change: ArrivalChange): Promise<Arrival[]> {
    const { site } = this;
    const rows = ids.map((id) => this.row(id, personId));
    for (const row of rows) if (change.name !== undefined) this.checkName(row, change.name);
    for (const row of rows) if (change.recipe) this.checkRecipe(row, change.recipe);
    site.db.write(() => {
      for (const row of rows) {
        const words = { ...row.words, ...change.words };
        const { take = [], refuse = [] } = change.suggested ?? {};
        const added = [...(change.addTags ?? []), ...site.tags.spelling(take)];
        if (added.length > 0) {
          const tags = new Map((words.tags ?? []).map((tag) => [tag.toLowerCase(), tag]));
          for (const tag of added) tags.set(tag.toLowerCase(), tag);
          words.tags = [...tags.values()];
        }
        site.arrivals.set(row, {
          words,
          ...(change.suggested
            ? {
                said: {
                  taken: [...new Set([...row.said.taken, ...site.tags.spelling(take)])],
                  refused: [...new Set([...row.said.refused, ...refuse])],
                },
              }
            : {}),
          ...(change.folder !== undefined ? { folder: change.folder } : {}),
          // A name that no person has written follows the folder and the title.
          ...(row.state === 'ready' && !row.named
            ? { name: nameFor(site, meant(row, words, change)).name }
            : {}),
          ...(change.name !== undefined ? { name: change.name.normalize('NFC'), named: true } : {}),
          ...(change.recipe !== undefined
            ? { recipe: change.recipe && !isNothing(change.recipe) ? normalise(change.recipe) : null }
            : {}),
          ...(change.choices ? { choices: { ...row.choices, ...change.choices } } : {}),
        });
      }
    });
    if (change.folder !== undefined || change.choices || change.recipe !== undefined)
      for (const row of rows) await site.checking.prepare(row.id);
    site.events.emit('arrivals');
    return ids.map((id) => this.need(id, personId));
  }

  private checkRecipe(row: ArrivalRow, recipe: Recipe): void {
    if (row.state !== 'ready' || !canBeEdited(this.site.checking.checked(row)))
      throw new Fault(
        'bad-request',
        `“${row.givenName}” can’t be edited before it is brought in.`,
        'Choose a JPEG, PNG, WebP, AVIF, TIFF or HEIC image that isn’t animated.',
      );
    try {
      geometry(recipe, { width: row.facts.width!, height: row.facts.height! });
    } catch (error) {
      if (!(error instanceof RangeError)) throw error;
      throw new Fault('bad-request', error.message, 'Change the edit, then try again.');
    }
  }

  private checkName(row: ArrivalRow, name: string): void {
    const fault = nameFault(name) ?? targetFault(name);
    if (fault) throw new Fault('bad-request', fault, 'Choose another name.');
    if (row.state === 'ready' && extensionOf(name) !== extensionOf(row.name)) {
      throw new Fault(
        'bad-request',
        `Keep the extension “${extensionOf(row.name)}”.`,
        'Change only what stands before it.',
      );
    }
  }

  /** Takes a file off the list; nothing of it stays. */
  async drop(id: number, personId: number): Promise<void> {
    const { site } = this;
    const row = this.row(id, personId);
    // The bytes first: on a full disk there is room for writing only when they are gone.
    if (row.upload) {
      const file = site.data.upload(row.upload);
      await rm(file, { force: true });
      await rm(`${file}.json`, { force: true });
    }
    site.arrivals.remove(id);
    await this.dropBytes(row);
    site.events.emit('arrivals');
  }

  /**
   * Brings files in as one change: new items, new versions of items. Names that are taken get a number. What is left
   * out goes off the list; what still asks stays on it, and of drafts what is to take the place of another.
   */
  async bringIn(
    ids: readonly number[],
    personId: number,
    as: 'items' | 'drafts' = 'items',
  ): Promise<{ entryId: number | null; itemIds: number[]; used: number[]; plan: Plan | null }> {
    const { site } = this;
    await site.checking.settled();
    await site.scanner.scan();
    const drafts = as === 'drafts' ? site.items.draftPaths() : [];
    const taken = new Set([...site.index.paths, ...drafts].map(clashKey));
    const incoming: Incoming[] = [];
    const ended: ArrivalRow[] = [];
    const used: number[] = [];
    const replaced = new Set<number>();
    /** How those that take the place of others were made. */
    const edits = new Map<number, string>();
    // What stood in its way may have left the list since: the copies for the site are made now, where they are missing.
    for (const id of ids) await site.checking.prepare(id);
    for (const row of ids.map((id) => this.row(id, personId))) {
      if (row.state !== 'ready') continue;
      const checked = site.checking.checked(row);
      const outcome = outcomeOf(checked);
      if (outcome.do === 'ask' || outcome.do === 'unpack') continue;
      if (outcome.do === 'replace' && as === 'drafts') continue;
      ended.push(row);
      if (outcome.do === 'leave-out') {
        if (outcome.instead) used.push(outcome.instead.itemId);
        continue;
      }
      const sha256 = row.ready?.sha256 ?? row.sha256;
      const bytes = row.ready?.bytes ?? row.bytes;
      if (outcome.do === 'replace' && !replaced.has(outcome.itemId)) {
        const item = site.items.need(outcome.itemId);
        replaced.add(outcome.itemId);
        const { width = null } = { ...row.facts, ...(row.ready?.facts ?? {}) };
        incoming.push({
          do: 'replace',
          path: item.path,
          sha256,
          itemId: item.id,
          before: item.sha256,
          width,
        });
        edits.set(item.id, editOf(row, checked.rule.keepOriginal));
        continue;
      }
      let path = joinPath(checked.folder, row.name);
      for (let number = 2; taken.has(clashKey(path)); number++)
        path = joinPath(checked.folder, numberedName(row.name, number));
      taken.add(clashKey(path));
      const { sha256: _sent, ...facts } = { ...row.facts, ...(row.ready?.facts ?? {}) };
      const itemId = site.records.add({
        path,
        state: 'absent',
        facts: { bytes, sha256, item: facts },
        addedAt: site.now(),
        addedBy: personId,
        originalName: row.givenName,
        originalSha256: isAnother(row) && checked.rule.keepOriginal ? row.sha256 : null,
      });
      // The words are the new record's own from the start: taking the file off the site again does not touch them.
      const edit = editOf(row, checked.rule.keepOriginal);
      const own = { ...tidyWords(givenByRule(row.words, checked.rule)), ...(edit ? { edit } : {}) };
      if (Object.keys(own).length > 0)
        site.records.apply({ itemId, rowVersion: 1, before: {}, after: own }, personId, site.now());
      if (row.said.taken.length + row.said.refused.length > 0)
        site.db.write(() => site.suggestedTags.setValue(String(itemId), { ...row.said }));
      incoming.push({ do: 'create', path, sha256, itemId, rowVersion: site.items.need(itemId).rowVersion });
    }
    let entryId: number | null = null;
    let plan: Plan | null = null;
    if (incoming.length > 0) {
      const proposal = await (as === 'drafts'
        ? proposeBringInDrafts(incoming)
        : proposeBringIn(site, incoming));
      plan = proposal.plan;
      try {
        for (const one of incoming) {
          if (one.do === 'create') continue;
          const item = site.items.need(one.itemId);
          const edit = edits.get(one.itemId) ?? '';
          if (edit !== item.edit) recordStep(plan, item, { edit: [item.edit, edit] });
          await remakeSizes(site, proposal, item, {
            file: site.blobs.get(one.sha256),
            width: one.width,
            mime: item.mime,
          });
        }
        entryId = await applyProposal(site, proposal, personId);
      } catch (error) {
        await site.records.removeAbsent(incoming.flatMap((one) => (one.do === 'create' ? [one.itemId] : [])));
        throw error;
      }
    }
    for (const row of ended) site.arrivals.remove(row.id);
    for (const row of ended) await this.dropBytes(row);
    site.events.emit(
      'alike-found',
      ended.flatMap((row) => site.alikes.of(row.sha256).map((one) => one.sha256)),
    );
    return { entryId, itemIds: incoming.map((one) => one.itemId), used, plan };
  }

  /** Whether bringing these in puts files in the place of others. */
  replaces(ids: readonly number[], personId: number): boolean {
    return ids
      .map((id) => this.row(id, personId))
      .some((row) => row.state === 'ready' && outcomeOf(this.site.checking.checked(row)).do === 'replace');
  }

  private async dropBytes(row: ArrivalRow): Promise<void> {
    for (const sha256 of [row.sha256, row.ready?.sha256 ?? ''])
      if (sha256) await collectBlob(this.site, sha256);
  }

  private view(row: ArrivalRow): Arrival {
    const checked = row.state === 'ready' ? this.site.checking.checked(row) : undefined;
    return {
      id: row.id,
      at: row.at,
      givenName: row.givenName,
      name: row.name,
      kind: kindOf(row.name),
      state: row.state,
      upload: row.upload,
      refused: row.refused,
      sha256: row.sha256,
      bytes: row.bytes,
      width: row.facts.width ?? null,
      height: row.facts.height ?? null,
      ready: row.ready && {
        sha256: row.ready.sha256,
        bytes: row.ready.bytes,
        width: row.ready.facts.width ?? null,
        height: row.ready.facts.height ?? null,
      },
      folder: row.folder,
      below: row.below,
      words: row.words,
      recipe: row.recipe,
      editable: checked !== undefined && canBeEdited(checked),
      findings: checked ? findingsOf(checked) : [],
      outcome: checked ? outcomeOf(checked).do : 'ask',
    };
  }
}

/** An arrival as a change will have it, as far as its name goes by that. */
const meant = (row: ArrivalRow, words: ArrivalRow['words'], change: ArrivalChange): ArrivalRow => ({
  ...row,
  words,
  folder: change.folder ?? row.folder,
  choices: { ...row.choices, ...change.choices },
  recipe: change.recipe === undefined ? row.recipe : change.recipe,
});

/** How what goes to the site was made of what was sent, as its record keeps it, so that it can be made anew; '': it is not kept. */
function editOf(row: ArrivalRow, keepOriginal: boolean): string {
  const { ready, facts } = row;
  if (!ready?.recipe || !facts.width || !facts.height || !(row.recipe || keepOriginal)) return '';
  return writeEdit({ recipe: ready.recipe, original: originalOf(row) }, ready.sha256);
}

const originalOf = (row: ArrivalRow): Original => ({
  sha256: row.sha256,
  mime: sentMime(row),
  width: row.facts.width!,
  height: row.facts.height!,
});

/** Whether what goes to the site is another image than what was sent: smaller, or of another format. */
function isAnother({ ready, facts }: ArrivalRow): boolean {
  return (
    ready !== null &&
    (ready.facts.width !== facts.width ||
      (facts.convertible !== undefined && ready.facts.contentMime !== facts.contentMime))
  );
}
