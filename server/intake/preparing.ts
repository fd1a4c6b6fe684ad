import { copyFile, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { mimeOf } from '../../core/address/kinds.ts';
import { extensionOf, stemOf } from '../../core/address/path.ts';
import { preparationOf } from '../../core/intake/findings.ts';
import type { Checked } from '../../core/intake/finding.ts';
import { isTreated } from '../../core/intake/preparing.ts';
import type { ItemFacts } from '../../core/media/facts.ts';
import { THUMBNAIL_SIZES } from '../../core/media/analysis.ts';
import { endingFor } from '../../core/picture/ending.ts';
import type { Recipe } from '../../core/picture/recipe/recipe.ts';
import type { Site } from '../app/site.ts';
import { subjectIn } from '../changes/treat.ts';
import type { ArrivalRow } from '../db/arrivals.ts';
import { collectBlob } from '../files/collect-blob.ts';
import { LIMITS } from '../limits.ts';
import type { Prepared } from '../media/prepare.ts';

type Needs = Pick<Site, 'data' | 'blobs' | 'db' | 'rows' | 'contents' | 'arrivals' | 'pool' | 'metadata'>;

/** Said of an image that could not be saved as JPEG. */
const STAYS_AS_SENT = 'It couldn’t be converted, so it stays as it is.';
/** Said of an image that could not be made smaller. */
const STAYS_LARGE = 'It couldn’t be shrunk, so it keeps its size.';
/** Said of an image that could not be edited. */
const STAYS_UNEDITED = 'It couldn’t be edited, so it stays as it was sent.';
/** Said of an image whose thing the folder's treatment could not find. */
const FRAMED_WHOLE = 'It isn’t clear where the thing on it ends, so it is framed as a whole.';
const SAID: readonly string[] = [STAYS_AS_SENT, STAYS_LARGE, STAYS_UNEDITED, FRAMED_WHOLE];

/** The media type that a waiting file was sent as. */
export const sentMime = ({ facts, name }: Pick<ArrivalRow, 'facts' | 'name'>): string =>
  facts.convertible ?? mimeOf(facts.extension === undefined ? name : `x${facts.extension}`);

/** The ending of what was sent; of what was checked before it was kept, its name's. */
const sentEnding = ({ facts, name }: ArrivalRow): string =>
  facts.extension ?? facts.convertible?.replace('image/', '.') ?? extensionOf(name);

/** The names of an arrival with the ending of what it becomes; undefined: of what was sent. */
function endingOf(row: ArrivalRow, mime: string | undefined): { name?: string; plainName?: string } {
  const sent = sentEnding(row);
  const ending = mime === undefined ? sent : endingFor(`x${sent}`, mime);
  if (extensionOf(row.name) === ending) return {};
  const ended = (name: string) => `${stemOf(name)}${ending}`;
  return { name: ended(row.name), plainName: row.plainName && ended(row.plainName) };
}

/** Whether it shows what was sent: smaller, or in another format. */
const looksAsSent = ({ orient, frame, tone, covers, size }: Recipe) =>
  !orient && !frame && !tone && !covers?.length && size?.by !== 'cover';

/**
 * Makes the bytes of a waiting file that will go to the site, when they are others than those sent: edited, treated, smaller, without
 * private facts.
 * @param checked what the door's findings are computed from
 */
export async function prepareArrival(
  site: Needs,
  id: number,
  checked: (row: ArrivalRow) => Checked,
): Promise<void> {
  const row = site.arrivals.get(id);
  if (!row || row.state !== 'ready') return;
  const file = checked({ ...row, ready: null, facts: { ...row.facts, privateStays: false } });
  const sent = site.blobs.get(row.sha256);
  const mime = sentMime(row);
  const subject = isTreated(file) && file.rule.treatment?.shape?.how === 'subject';
  // What cannot be looked at is framed as a whole, like what is not clear.
  const seen = subject ? await subjectIn(site, sent, mime).catch(() => undefined) : undefined;
  const found = typeof seen === 'object' ? seen : undefined;
  const { recipe, removePrivate } = preparationOf(file, found);
  const done = recipe || removePrivate ? JSON.stringify([recipe, removePrivate]) : '';
  if (done === (row.ready?.done ?? '') && !row.facts.privateStays) return;
  const set = (
    values: { ready?: ArrivalRow['ready']; notes?: readonly string[]; stays?: boolean },
    mimeNow?: string,
  ) =>
    site.arrivals.set(row, {
      ...endingOf(row, mimeNow),
      ready: values.ready ?? null,
      notes: [
        ...row.notes.filter((note) => !SAID.includes(note)),
        ...(values.notes ?? []),
        ...(subject && !found && values.ready ? [FRAMED_WHOLE] : []),
      ],
      facts: { ...row.facts, extension: sentEnding(row), privateStays: values.stays ?? false },
    });
  if (done === '') {
    set({});
    return;
  }
  const failed = file.recipe
    ? STAYS_UNEDITED
    : file.convertible !== null && recipe?.file?.format
      ? STAYS_AS_SENT
      : STAYS_LARGE;
  const work = site.data.workFile();
  const bare = site.data.workFile();
  try {
    const made = recipe && (await madeBy(site, recipe, { sent, mime, work }));
    if (recipe && !made && (file.recipe || recipe.file?.format))
      return void set({ notes: [failed], stays: removePrivate });
    // What was only to get smaller and did not, stays.
    const same = recipe !== undefined && looksAsSent(recipe) && made?.mime === mime;
    const taken = made !== undefined && !(same && made.bytes >= row.bytes);
    const notes = recipe && !made ? [failed] : [];
    if (!taken && !removePrivate) return void set({ notes });
    const from = taken ? work : sent;
    if (removePrivate) {
      if (!(await site.metadata.copyWithoutPrivate(from, bare)))
        return void set({ notes: taken && file.recipe ? [failed] : notes, stays: true });
    } else await site.metadata.copyWithoutPreviews(from, bare);
    const path = `x${taken ? endingFor(row.name, made.mime) : extensionOf(row.name)}`;
    const facts =
      taken && !looksAsSent(recipe!)
        ? await lookedAt(site, bare, path, row)
        : await asBefore(site, bare, path, row);
    const { size: bytes } = await stat(bare);
    await site.blobs.link(bare, facts.sha256);
    const ready = { sha256: facts.sha256, bytes, facts, done, ...(taken && recipe ? { recipe } : {}) };
    // Left out meanwhile: nobody needs the copy.
    if (!set({ notes, ready }, taken ? made.mime : undefined)) await collectBlob(site, facts.sha256);
  } catch {
    // Whatever failed, what is private must not get out for it: a person decides.
    set({ notes: recipe ? [failed] : [], stays: removePrivate });
  } finally {
    await rm(work, { force: true });
    await rm(bare, { force: true });
  }
}

/** Writes what a recipe makes of it, with what it tells of itself; undefined: it cannot be made. */
async function madeBy(
  site: Needs,
  recipe: Recipe,
  { sent, mime, work }: { sent: string; mime: string; work: string },
): Promise<Prepared | undefined> {
  // A TIFF that only gets smaller stays one: what it is for is not the browser.
  const keepTiff = looksAsSent(recipe);
  const task = { file: sent, to: work, asked: { recipe, mime, keepTiff } };
  try {
    const made = await site.pool.run('prepare', task, { limit: LIMITS.checkTime });
    if ('refused' in made) return undefined;
    if (!made.carried) await site.metadata.carryOver(sent, work);
    return made;
  } catch {
    return undefined;
  }
}

/** The same pixels, so the same small images: those of what was sent. */
async function asBefore(site: Needs, file: string, path: string, row: ArrivalRow): Promise<ItemFacts> {
  const facts = await site.pool.run('inspect', { file, path });
  if (site.contents.get(facts.sha256)) return facts;
  site.contents.copy(row.sha256, facts.sha256);
  for (const side of THUMBNAIL_SIZES)
    await copyFile(
      join(site.data.thumbnails, `${row.sha256}-${side}.webp`),
      join(site.data.thumbnails, `${facts.sha256}-${side}.webp`),
    ).catch((error: NodeJS.ErrnoException) => {
      if (error.code !== 'ENOENT') throw error;
    });
  return facts;
}

/** Another image than was sent: everything is derived from it anew. */
async function lookedAt(site: Needs, file: string, name: string, row: ArrivalRow): Promise<ItemFacts> {
  const answer = await site.pool.run(
    'receive',
    { file, name, thumbs: site.data.thumbnails },
    { limit: LIMITS.pictureTime },
  );
  if ('refused' in answer) throw new Error(answer.refused);
  site.contents.save(answer.facts.sha256, answer.derived, {
    codecs: '',
    profile: null,
    takenAt: row.facts.takenAt ?? null,
    place: row.facts.place === true && row.choices.place === 'keep',
  });
  return answer.facts;
}
