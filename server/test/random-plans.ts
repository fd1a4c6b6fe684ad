import { existsSync } from 'node:fs';
import { mkdir, rename, rm, rmdir, writeFile } from 'node:fs/promises';
import { PlanRequest } from '../../api/plans.ts';
import { textKindOf } from '../../core/document/document.ts';
import { openDocument } from '../documents/documents.ts';
import { readRedirects, REDIRECTS_FILE } from '../../core/address/redirects.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import { propose } from '../changes/kinds/index.ts';
import { applyProposal } from '../changes/apply.ts';
import type { Proposal } from '../changes/proposal.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { picture } from './site.ts';
import { type Ground, Around, type Kind, type Makers } from './random-ground.ts';
import { IMAGE_MAKERS } from './random-images.ts';

/** Every kind of plan that can be asked for. */
export const KINDS_OF_PLANS = () => Object.keys(MAKERS) as Kind[];

/** A request of that kind over what is there now; undefined: there is nothing for it. */
export async function randomRequest(kind: Kind, ground: Ground): Promise<PlanRequest | undefined> {
  const asked = await MAKERS[kind](new Around(ground));
  return asked && ({ kind, ...asked } as PlanRequest);
}

const LOOK = { caption: false, classes: '', shownWidth: null };
const FILES = { sizes: false, full: true };

const MAKERS: Makers = {
  ...IMAGE_MAKERS,
  move: (at) => ({ itemIds: at.some(), folder: at.folder }),
  address: (at) => {
    const { one } = at;
    return { itemId: one.id, folder: at.folder, name: `${at.name}${/\.[^.]+$/.exec(one.name)?.[0] ?? ''}` };
  },
  names: (at) => {
    const [one, other] = [at.one, at.one];
    const swap = one.folder === other.folder && one.id !== other.id && one.mime === other.mime;
    const { name } = at;
    return {
      names: swap
        ? [
            { itemId: one.id, name: other.name },
            { itemId: other.id, name: one.name },
          ]
        : at.some().map((itemId, i) => ({
            itemId,
            name: `${name}-${i} é${/\.[^.]+$/.exec(at.site.items.need(itemId).name)?.[0] ?? ''}`,
          })),
    };
  },
  folder: (at) => {
    const folders = [...new Set(at.items.map((item) => item.folder))].filter((one) => one !== '');
    return { folder: at.chance.pick(folders), to: `${at.name}/${at.chance.pick(['x', 'y z'])}` };
  },
  'new-folder': (at) => ({ folder: `${at.folder}/${at.name}`.replace(/^\//, '') }),
  'drop-folders': async (at) => {
    const folder = at.name;
    await at.first({ kind: 'new-folder', folder });
    return { folders: [folder] };
  },
  'set-aside': (at) => ({ itemIds: at.some(), leavePlaced: true }),
  'hand-on': async (at) => {
    const [from, ...others] = at.site.people.all();
    await at.first({ kind: 'records', itemIds: at.some(), owner: from!.name });
    return others.length === 0 ? undefined : { personId: from!.id, to: others.at(-1)!.id };
  },
  credits: async (at) => {
    const itemIds = at.which((item) => item.use === 'placed' && item.kind === 'image').map((item) => item.id);
    if (itemIds.length === 0) return undefined;
    const set = { licence: 'CC BY 4.0', credit: at.name };
    const one = [at.chance.pick(itemIds)];
    const done = await at.first({ kind: 'records', itemIds: one, set });
    return done === undefined ? undefined : { itemIds: one };
  },
  service: (at) => ({
    service: at.chance.pick(['image-bank', 'tagging'] as const),
    address: at.chance.pick([null, undefined, `https://bank.example/${encodeURIComponent(at.name)}/`]),
    limit: at.chance.pick([null, undefined, at.chance.below(1000)]),
  }),
  'suggested-tags': (at) => ({
    suggestions: at.some().map((itemId, i) => ({
      itemId,
      take: i % 3 === 0 ? [] : [at.name],
      refuse: i % 2 === 0 ? ['never this', `not ${at.name}`] : [],
    })),
  }),
  'confirm-tags': async (at) => {
    const itemIds = at.some();
    const suggestions = itemIds.map((itemId) => ({ itemId, take: [`seen ${at.name}`], refuse: [] }));
    const done = await at.first({ kind: 'suggested-tags', suggestions });
    return done === undefined ? undefined : { itemIds };
  },
  person: (at) => ({ personId: at.site.people.all().at(-1)!.id, folders: [at.name] }),
  comment: (at) => ({ itemId: at.one.id, say: { text: `On ${at.name}` } }),
  withdraw: (at) => {
    const loose = at.which(
      ({ use, kind, sizes, sizeOf }) =>
        use === 'unused' && kind === 'image' && sizes === 0 && sizeOf === null,
    );
    return loose.length === 0 ? undefined : { itemIds: [at.chance.pick(loose).id] };
  },
  publish: async (at) => {
    const asked = await MAKERS.withdraw(at);
    const done = asked && (await at.first({ kind: 'withdraw', ...asked }));
    return done === undefined ? undefined : { ...asked!, freeNames: at.chance.below(2) === 0 };
  },
  discard: async (at) => {
    const asked = await MAKERS.withdraw(at);
    const done = asked && (await at.first({ kind: 'withdraw', ...asked }));
    return done === undefined ? undefined : asked;
  },
  restore: async (at) => {
    const itemIds = at.which((item) => item.use === 'unused').map((item) => item.id);
    if (itemIds.length === 0) return undefined;
    const chosen = [...new Set([at.chance.pick(itemIds), at.chance.pick(itemIds)])];
    const done = await at.first({ kind: 'set-aside', itemIds: chosen });
    return done === undefined ? undefined : { itemIds: chosen, freeNames: at.chance.below(2) === 0 };
  },
  'make-pdf': async (at) => {
    const path = `img/found-${at.name}.csv`;
    const fresh = !existsSync(at.file('img'));
    await at.others(
      at.one,
      async () => {
        await mkdir(at.file('img'), { recursive: true });
        await writeFile(at.file(path), `Star,Light\n${at.name},1\n`);
      },
      async () => {
        await rm(at.file(path));
        if (fresh) await rmdir(at.file('img'));
      },
    );
    return { path };
  },
  copies: (at) => ({ itemIds: at.some(), folder: at.chance.pick([null, at.folder]) }),
  merge: async (at) => {
    const groups = (await at.site.finder.copies(at.site.reader)).filter((group) => group.length > 1);
    // The same bytes, or two images that a person has found to show the same.
    if (groups.length === 0 || at.chance.below(3) === 0) {
      const [keeper, other] = [at.one, at.one];
      return keeper.id === other.id ? undefined : { groups: [{ keeperId: keeper.id, otherIds: [other.id] }] };
    }
    const [keeper, ...others] = at.chance.pick(groups);
    return { groups: [{ keeperId: keeper!.id, otherIds: others.map((one) => one.id) }] };
  },
  replace: (at) => {
    const [one, other] = [at.one, at.one];
    if (one.sha256 === other.sha256) return undefined;
    return { itemId: one.id, by: { itemId: other.id }, name: at.chance.pick(['keep', 'new']), dates: 'keep' };
  },
  'bring-back': async (at) => {
    const { one } = at;
    const entryId =
      at.chance.below(2) === 0
        ? await at.first({ kind: 'cells', cells: [{ itemId: one.id, set: { alt: at.name } }] })
        : await at.first({
            kind: 'replace',
            itemId: one.id,
            by: { itemId: at.one.id },
            name: 'keep',
            dates: 'keep',
          });
    return entryId === undefined ? undefined : { itemId: one.id, entryId };
  },
  kept: async (at) => {
    const { one } = at;
    const by = { itemId: at.one.id };
    const done = await at.first({ kind: 'replace', itemId: one.id, by, name: 'keep', dates: 'keep' });
    return done === undefined ? undefined : { itemIds: [one.id] };
  },
  place: async (at) => {
    const { page } = at;
    const image = at.chance.pick(at.which((item) => item.kind === 'image'));
    const places = at.site.references.placedOn(page);
    switch (at.chance.below(4)) {
      case 0:
        return {
          page,
          spot: { at: at.site.index.factsOf(page)!.bytes },
          itemId: at.one.id,
          ...LOOK,
          ...FILES,
        };
      case 1: {
        const html = await at.site.folder.read('album.html');
        const behind = html.indexOf('<div class="hero"');
        return behind < 0
          ? undefined
          : { page: 'album.html', spot: { behind }, itemId: image.id, ...LOOK, ...FILES };
      }
      case 2: {
        const background = at.place((place) => place === 'background');
        if (!background) return undefined;
        const spot = { background: background.start, in: background.page };
        return { page: background.page, spot, itemId: image.id, ...LOOK, ...FILES };
      }
      default:
        return places.length === 0
          ? undefined
          : {
              page,
              spot: { insteadOf: at.chance.pick(places).start },
              itemId: image.id,
              ...LOOK,
              sizes: at.chance.below(2) === 0,
              full: true,
            };
    }
  },
  placement: (at) => {
    const film = at.chance.below(3) === 0;
    const place = at.place((where, item) => (film ? item.kind === 'video' : where === 'img src'));
    if (!place) return undefined;
    const { page, start } = place;
    const posterId = at.chance.pick(at.which((item) => item.kind === 'image')).id;
    const captions = { path: 'film/sky.vtt', language: 'en', label: 'English' };
    if (film)
      return at.site.index.factsOf(captions.path)
        ? { page, start, posterId, captions }
        : { page, start, posterId };
    const ours = { align: at.chance.pick(['left', 'none'] as const), space: 'small' as const };
    const { name } = at;
    return {
      page,
      start,
      alt: name,
      title: at.chance.pick([null, name]),
      caption: at.chance.pick([null, name]),
      ours,
    };
  },
  unplace: (at) => {
    const place = at.place(() => true);
    return place && { places: [{ page: place.page, start: place.start }] };
  },
  order: (at) => {
    const place = at.place(() => true);
    return place && { page: place.page, start: place.start, to: at.chance.pick(['up', 'down']) };
  },
  gallery: (at) => {
    const { page } = at;
    return {
      page,
      spot: { at: at.site.index.factsOf(page)!.bytes },
      from: { gathered: true },
      itemIds: at.some(),
      ...{ side: 40, quality: 70, captions: false, classes: '' },
    };
  },
  focal: (at) => ({ itemId: at.one.id, focal: `${at.chance.below(100)} 30`, places: [] }),
  family: (at) => ({
    itemIds: at.some(2),
    of: at.chance.pick(['apart', 'found', at.one.id] as const),
  }),
  'without-place': (at) => {
    const some = at.which((item) => item.mime === 'image/jpeg').map((item) => item.id);
    return { itemIds: some };
  },
  'right-endings': (at) => {
    const contexts = at.site.findings.checkInputs(at.items.map((item) => item.id));
    const content = new Map(contexts.map((one) => [one.id, one.contentMime]));
    const wrong = at.which((item) => !!content.get(item.id) && content.get(item.id) !== item.mime);
    return wrong.length === 0 ? undefined : { itemIds: [at.chance.pick(wrong).id] };
  },
  records: (at) => ({
    itemIds: at.some(),
    addTags: [at.chance.pick(['sky', 'Äpfel', 'ähre', 'moon', at.name])],
    owner: at.chance.pick([null, at.site.people.all()[0]!.name]),
  }),
  edit: (at) => ({ itemIds: at.some(), field: 'title', edit: { edit: 'set', text: at.name } }),
  cells: (at) => ({
    cells: at.some().map((itemId) => ({ itemId, set: { alt: `Alt ${at.name}`, title: at.name } })),
  }),
  embed: (at) => ({ itemIds: at.some(2), as: at.chance.pick(['file', 'sidecar']) }),
  document: async (at) => {
    const texts = [...at.site.index.paths].filter((path) => textKindOf(path) !== undefined).sort();
    if (texts.length === 0) return undefined;
    const path = at.chance.pick(texts);
    const { sha256, text, kind } = await openDocument(at.site, path);
    if (kind === 'workbook') {
      const edits = [{ do: 'set', sheet: 0, cells: [[at.chance.whole(0, 9), 0, at.name]] }] as const;
      return { path, base: sha256, text: JSON.stringify({ edits }) };
    }
    if (kind === 'word') {
      const blocks = [0, { type: 'paragraph', content: [{ type: 'text', text: at.name }] }];
      return { path, base: sha256, text: JSON.stringify({ blocks }) };
    }
    return { path, base: sha256, text: `${text}${at.chance.pick(['', '\n\n'])}${at.name}\n` };
  },
  'page-words': async (at) => {
    const place = at.place((where) => where === 'img src');
    if (!place) return undefined;
    const itemId = place.item.sizeOf ?? place.item.id;
    await at.first({ kind: 'cells', cells: [{ itemId, set: { alt: `The ${at.name}` } }] });
    return { places: [{ page: place.page, start: place.start }] };
  },
  repair: async (at) => {
    const broken = await at.site.references.allBroken();
    if (broken.length === 0) return undefined;
    const { page, start } = at.chance.pick(broken);
    return { places: [{ page, start, path: at.one.path }] };
  },
  tag: async (at) => {
    await at.first({ kind: 'records', itemIds: at.some(), addTags: ['pond', 'moor'] });
    return {
      tag: at.chance.pick(['pond', 'moor']),
      to: at.chance.pick([null, at.name, 'moon', 'pond', 'moor']),
    };
  },
  'tag-spelling': async (at) => {
    await at.first({ kind: 'records', itemIds: at.some(), addTags: ['dome'] });
    return { tag: 'dome', spelling: at.name };
  },
  'tag-above': async (at) => {
    await at.first({ kind: 'records', itemIds: at.some(), addTags: ['dome', 'hill'] });
    return at.chance.pick([
      { tag: 'dome', above: 'hill' },
      { tag: 'dome', above: 'sky' },
    ]);
  },
  rule: (at) => ({
    folder: at.folder,
    rule: {
      ...{
        purpose: at.name,
        leastWidth: null,
        leastHeight: null,
        largestSide: null,
        shape: '3:2',
        largestBytes: null,
      },
      ...{ keepOriginal: false, kinds: null, pattern: null, tags: ['sky'], licence: '' },
    },
  }),
  'own-field': (at) => ({ name: at.name, field: { kind: 'text', choices: [] } }),
  treatment: (at) => ({
    name: at.name,
    treatment: { recipe: { version: 1, size: { by: 'width', width: 300 } } },
  }),
  'name-pattern': (at) => ({
    name: at.name,
    pattern: {
      pieces: [{ piece: 'title' }],
      ...{ separator: '-', case: 'lower', letters: 'ascii', stopWords: null, words: 4, lacking: 'keep-name' },
    },
  }),
  layout: (at) => {
    const now = at.site.layout.get();
    // As lines, in which the site's own folder is a slash.
    const roots = now.public.map((one) => one || '/');
    return { layout: { ...now, public: roots, published: [`https://${at.name}.example/`] } };
  },
  public: (at) => ({ folders: at.chance.pick([[''], ['', 'docs']]) }),
  dismiss: (at) => ({ check: 'unused', subjects: at.some().map(String), reason: at.name }),
  'link-form': (at) => ({ form: at.chance.pick([null, '{title} ({format} {size})', '{title}']) }),
  'keeping-days': (at) => ({ days: at.chance.whole(1, 300) }),
  redirects: async (at) => {
    const place = at.place(() => true);
    if (!place) return undefined;
    await at.first({
      kind: 'address',
      itemId: place.item.id,
      folder: place.item.folder,
      name: `${at.name}${/\.[^.]+$/.exec(place.item.name)![0]}`,
    });
    if (!existsSync(at.file(REDIRECTS_FILE))) return undefined;
    const { redirects } = await readRedirects((await at.site.folder.read(REDIRECTS_FILE)).toString('utf8'));
    return redirects.length === 0
      ? undefined
      : { redirects: [{ from: at.chance.pick(redirects).from, to: null }] };
  },
  forget: async (at) => {
    const item = at.which((one) => one.use === 'unused' && one.sizes === 0)[0];
    if (!item) return undefined;
    const away = at.file(`../away-${item.name}`);
    await at.others(
      item,
      () => rename(at.file(item.path), away),
      () => rename(away, at.file(item.path)),
    );
    return { itemIds: [item.id] };
  },
  reunite: async (at) => {
    const item = at.which((one) => one.use === 'unused' && one.sizes === 0 && one.mime === 'image/png')[0];
    if (!item) return undefined;
    const away = at.file(`../away-${item.name}`);
    const path = `img/found-${at.name}.png`;
    // Others may have moved all of that folder.
    const fresh = !existsSync(at.file('img'));
    await at.others(
      item,
      async () => {
        await rename(at.file(item.path), away);
        await mkdir(at.file('img'), { recursive: true });
        await writeFile(at.file(path), await picture(5000 + at.chance.below(1000)));
      },
      async () => {
        await rm(at.file(path));
        if (fresh) await rmdir(at.file('img'));
        await rename(away, at.file(item.path));
      },
    );
    return { itemId: item.id, path };
  },
  'follow-moves': async (at) => {
    const item = at.chance.pick(at.which((one) => one.sizes === 0 && one.sizeOf === null));
    // Of several with the same bytes it would not be sure which one has moved.
    if (at.items.filter((one) => one.sha256 === item.sha256).length > 1) return undefined;
    const to = `gone-${at.name}.${item.name.split('.').at(-1)}`;
    await at.others(
      item,
      () => rename(at.file(item.path), at.file(to)),
      () => rename(at.file(to), at.file(item.path)),
    );
    return { itemIds: [item.id] };
  },
  undo: async (at) => {
    const { one } = at;
    const entryId = await at.first({
      kind: 'cells',
      cells: [{ itemId: one.id, set: { alt: `A ${at.name}` } }],
    });
    await at.first({ kind: 'cells', cells: [{ itemId: one.id, set: { alt: `B ${at.name}` } }] });
    return entryId === undefined ? undefined : { entryId, withLater: true };
  },
};

/** Plans and applies. @returns undefined: something stands in its way, or there is nothing to do */
export async function applied(
  site: OpenedSite,
  request: PlanRequest,
  begin: (plan: Plan) => void = () => undefined,
): Promise<number | undefined> {
  let proposal: Proposal;
  try {
    proposal = await propose(site, PlanRequest.parse(request), { personId: 1 });
  } catch (error) {
    // Told to the person in a sentence: it cannot be planned.
    if (error instanceof Fault) return undefined;
    throw error;
  }
  const { files, records, settings = [], folders, leaves = [], clashes } = proposal.plan;
  if (clashes.length > 0 || [files, records, settings, folders, leaves].every(({ length }) => length === 0))
    return undefined;
  begin(proposal.plan);
  return applyProposal(site, proposal, 1);
}
