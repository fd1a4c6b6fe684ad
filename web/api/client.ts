import { z } from 'zod';
import { connect, type EventMessage } from './event-source.ts';
import {
  AddressesText,
  DescribeView,
  FacetsView,
  FolderView,
  FoundGroups,
  ItemText,
  ItemDetail,
  ItemList,
  ItemSum,
  ItemView,
  OwnFields,
  RecognisedText,
  SavedQuery,
  SnippetText,
  Suggestions,
  TagSense,
  TableView,
  TagCounts,
  VersionView,
  WordDifferences,
  type AddressForm,
  type SaveWords,
} from '../../api/items.ts';
import { BrokenView, LayoutView, LiveView, PageDetail, PageView, PlacementDetail } from '../../api/pages.ts';
import { Applied, BroughtIn, EntryView, PlanView, type PlanRequest } from '../../api/plans.ts';
import {
  ReplacementView,
  ArrivalList,
  ArrivalView,
  Fetched,
  FolderRules,
  Unpacked,
  type ArrivalChange,
} from '../../api/intake.ts';
import {
  AccessView,
  DoorView,
  FactorView,
  Holdings,
  InvitationView,
  MemberView,
  NewFactor,
  PersonView,
  ProvidedView,
  ProviderAddress,
  RecoveryCodes,
  SessionView,
  TokenMade,
  TokenView,
} from '../../api/people.ts';
import { MineView, SubmissionList, Submitted, SubmittedPlan } from '../../api/submissions.ts';
import type { Role } from '../../core/people/rights.ts';
import { EditView, FramingView, SubjectView, TriedView } from '../../api/edits.ts';
import { Treatment } from '../../core/picture/recipe/treatments.ts';
import type { Recipe } from '../../core/picture/recipe/recipe.ts';
import { NamingTable, SavedPatterns } from '../../api/naming.ts';
import {
  Dismissed,
  DifferingView,
  DoubleGroups,
  Emptied,
  Estimate,
  FindingList,
  Overview,
  RedirectFindings,
  RedirectsView,
  TagFindings,
  ToMeasure,
} from '../../api/upkeep.ts';
import type { ItemCheck } from '../../core/upkeep/checks.ts';
import type { KeeperRule } from '../../core/upkeep/keeper.ts';
import {
  type ExportForm,
  type ExportOptions,
  ExportView,
  FaultView,
  JobView,
  Scanned,
  Settled,
  SiteView,
  type SettleRequest,
} from '../../api/site.ts';

/** What the server refused, with the sentences for the person. */
export class Refused extends Error {
  constructor(readonly fault: FaultView) {
    super(fault.message);
    this.name = 'Refused';
  }
}

/** Whether all was right so far, and a code of the second factor is asked for. */
export const asksForCode = (error: unknown): boolean =>
  error instanceof Refused && error.fault.code === 'code-needed';

let onSignedOut = () => {};
/** Calls `act` whenever the server says that nobody is signed in here any more. */
export function whenSignedOut(act: () => void): void {
  onSignedOut = act;
}
function refused(fault: FaultView): Refused {
  if (fault.code === 'signed-out') onSignedOut();
  return new Refused(fault);
}

/** One sentence for any error: what the server said, or that it could not be reached. */
export function sentenceOf(error: unknown): string {
  if (error instanceof Refused) return `${error.fault.message} ${error.fault.remedy}`;
  if (error instanceof TypeError)
    return 'The server doesn’t answer. Check that it still runs, then try again.';
  return error instanceof Error ? error.message : String(error);
}

/** The state of the library that events told of last; none until they are followed. */
let followed: string | undefined;
/** Of which states the answers tell that came before events were followed. */
const seenBefore = new Set<string>();
let onMissed = () => {};

/** Asks the server. What was asked before events were followed may tell of a state that no event has ended. */
async function fetched(path: string, init: RequestInit = {}): Promise<Response> {
  const unfollowed = followed === undefined;
  const answer = await fetch(path, init);
  const revision = answer.headers.get('Library-Revision');
  if (!unfollowed || !revision) return answer;
  if (followed === undefined) seenBefore.add(revision);
  else if (revision !== followed) onMissed();
  return answer;
}

/** Asks the server, and reads its answer. @throws Refused with the server's sentences */
export async function ask<Schema extends z.ZodType>(
  schema: Schema,
  method: string,
  path: string,
  body?: unknown,
  signal?: AbortSignal,
): Promise<z.infer<Schema>> {
  const answer = await fetched(`/api${path}`, {
    method,
    ...(signal ? { signal } : {}),
    ...(body === undefined
      ? {}
      : { headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) }),
  });
  const value: unknown = await answer.json();
  if (!answer.ok) throw refused(FaultView.parse(value));
  return schema.parse(value);
}

async function madeImage(
  of: 'items' | 'arrivals',
  id: number,
  recipe: Recipe,
  signal: AbortSignal,
): Promise<Blob> {
  const answer = await fetched(`/api/${of}/${id}/edit/made`, {
    method: 'POST',
    signal,
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ recipe }),
  });
  if (!answer.ok) throw new Refused(FaultView.parse(await answer.json()));
  return answer.blob();
}

/** All that a query finds, as the server packs it. */
export interface FoundItems extends FoundGroups {
  ids: Uint32Array;
  ratios: Uint16Array;
  bytes: number;
}
async function found(query: Query): Promise<FoundItems> {
  const answer = await fetched(`/api/items/found${search(query)}`);
  if (!answer.ok) throw new Refused(FaultView.parse(await answer.json()));
  const packed = await answer.arrayBuffer();
  const [length, json] = new Uint32Array(packed, 8, 2) as unknown as [number, number];
  const tail = 16 + 6 * length;
  return {
    bytes: new Float64Array(packed, 0, 1)[0]!,
    ids: new Uint32Array(packed, 16, length),
    ratios: new Uint16Array(packed, 16 + 4 * length, length),
    ...FoundGroups.parse(JSON.parse(new TextDecoder().decode(new Uint8Array(packed, tail, json)))),
  };
}

export type Query = Record<string, string | number | undefined>;

/** A query as the end of an address; what is empty is left out. */
export function search(query: Query): string {
  const entries = Object.entries(query).filter(([, value]) => value !== undefined && value !== '');
  return entries.length === 0
    ? ''
    : `?${new URLSearchParams(entries.map(([key, value]) => [key, String(value)]))}`;
}

export const api = {
  site: () => ask(SiteView, 'GET', '/site'),
  scan: () => ask(Scanned, 'POST', '/scan', {}),
  settle: (how: SettleRequest) => ask(Settled, 'POST', '/settle', how),
  door: () => ask(DoorView, 'GET', '/door'),
  signIn: (name: string, password: string, code?: string) =>
    ask(PersonView, 'POST', '/sign-in', { name, password, ...(code ? { code } : {}) }),
  toProvider: () => ask(ProviderAddress, 'POST', '/sign-in/provider', {}),
  fromProvider: (answer: string) =>
    ask(PersonView.nullable(), 'POST', '/sign-in/provider/finish', { answer }),
  signInAs: (personId: number) => ask(PersonView, 'POST', '/sign-in/as', { personId }),
  signOut: () => ask(z.unknown(), 'POST', '/sign-out', {}),
  invited: (token: string) => ask(PersonView, 'POST', '/invitation/look', { token }),
  useInvitation: (one: { token: string; name: string; password: string; code?: string }) =>
    ask(PersonView, 'POST', '/invitation/use', one),
  changePassword: (current: string, next: string) =>
    ask(z.unknown(), 'POST', '/account/password', { current, next }),
  provided: () => ask(ProvidedView, 'GET', '/account/provider'),
  connectProvider: (password: string) =>
    ask(ProviderAddress, 'POST', '/account/provider/connect', { password }),
  disconnectProvider: () => ask(z.unknown(), 'POST', '/account/provider/disconnect', {}),
  factor: () => ask(FactorView, 'GET', '/account/second-factor'),
  beginFactor: (password: string) => ask(NewFactor, 'POST', '/account/second-factor', { password }),
  confirmFactor: (code: string) => ask(RecoveryCodes, 'POST', '/account/second-factor/confirm', { code }),
  renewCodes: (password: string) => ask(RecoveryCodes, 'POST', '/account/second-factor/codes', { password }),
  endFactor: (password: string) => ask(z.unknown(), 'POST', '/account/second-factor/end', { password }),
  endFactorOf: (id: number) => ask(z.unknown(), 'POST', `/people/${id}/second-factor/end`, {}),
  sessions: () => ask(z.array(SessionView), 'GET', '/account/sessions'),
  endSession: (id: number) => ask(z.unknown(), 'POST', `/account/sessions/${id}/end`, {}),
  tokens: () => ask(z.array(TokenView), 'GET', '/account/tokens'),
  makeToken: (name: string, role: Role, days: number) =>
    ask(TokenMade, 'POST', '/account/tokens', { name, role, days }),
  endToken: (id: number) => ask(z.unknown(), 'POST', `/account/tokens/${id}/end`, {}),
  holdings: (id: number) => ask(Holdings, 'GET', `/people/${id}/holdings`),
  submit: (planId: string, note: string) => ask(Submitted, 'POST', `/plans/${planId}/submit`, { note }),
  mine: () => ask(MineView, 'GET', '/mine'),
  submissions: () => ask(SubmissionList, 'GET', '/submissions'),
  submittedPlan: (id: number) => ask(SubmittedPlan, 'POST', `/submissions/${id}/plan`, {}),
  returnSubmission: (id: number, answer: string) =>
    ask(z.unknown(), 'POST', `/submissions/${id}/return`, { answer }),
  withdrawSubmission: (id: number) => ask(z.unknown(), 'POST', `/submissions/${id}/withdraw`, {}),
  people: () => ask(z.array(MemberView), 'GET', '/people'),
  invite: (name: string, role: Role) => ask(InvitationView, 'POST', '/people', { name, role }),
  newLink: (id: number) => ask(InvitationView, 'POST', `/people/${id}/link`, {}),
  accessLog: () => ask(z.array(AccessView), 'GET', '/access-log'),
  items: (query: Query) => ask(ItemList, 'GET', `/items${search(query)}`),
  itemsFound: (query: Query) => found(query),
  itemsSome: (ids: readonly number[], q = '') =>
    ids.length === 0
      ? Promise.resolve([])
      : ask(z.array(ItemView), 'GET', `/items/some${search({ ids: ids.join(','), q })}`),
  itemsSum: (ids: readonly number[]) => ask(ItemSum, 'POST', '/items/sum', { ids }),
  tagsOf: (ids: readonly number[]) => ask(TagCounts, 'POST', '/items/tags', { ids }),
  addressesOf: (ids: readonly number[], form: AddressForm) =>
    ask(AddressesText, 'POST', '/items/addresses', { ids, form }),
  suggestions: (q: string) => ask(Suggestions, 'GET', `/suggestions${search({ q })}`),
  textOf: (id: number) => ask(ItemText, 'GET', `/items/${id}/text`),
  versions: (id: number) => ask(z.array(VersionView), 'GET', `/items/${id}/versions`),
  facets: (query: Query) => ask(FacetsView, 'GET', `/items/facets${search(query)}`),
  savedQueries: () => ask(z.array(SavedQuery), 'GET', '/saved-queries'),
  saveQuery: (name: string, query: string) => ask(Applied, 'PUT', '/saved-queries', { name, query }),
  dropQuery: (id: number) => ask(Applied, 'DELETE', `/saved-queries/${id}`),
  item: (id: number) => ask(ItemDetail, 'GET', `/items/${id}`),
  saveWords: (id: number, change: SaveWords) => ask(ItemView, 'PATCH', `/items/${id}`, change),
  folders: () => ask(z.array(FolderView), 'GET', '/folders'),
  tags: () => ask(TagCounts, 'GET', '/tags'),
  tagSense: () => ask(TagSense, 'GET', '/tags/sense'),
  upkeep: () => ask(Overview, 'GET', '/upkeep'),
  looked: () => ask(z.unknown(), 'POST', '/upkeep/looked', {}),
  findings: (check: ItemCheck, age: number, limit: number, offset: number) =>
    ask(FindingList, 'GET', `/upkeep/findings${search({ check, age, limit, offset })}`),
  findingIds: (check: ItemCheck, age: number) =>
    ask(z.array(z.int()), 'GET', `/upkeep/ids${search({ check, age })}`),
  doubles: (check: 'copies' | 'look-alikes', rule: KeeperRule, folder: string) =>
    ask(DoubleGroups, 'GET', `/upkeep/groups${search({ check, rule, folder })}`),
  differences: (one: number, other: number) =>
    ask(DifferingView, 'GET', `/items/${one}/differences/${other}`),
  tagFindings: () => ask(TagFindings, 'GET', '/upkeep/tags'),
  redirectFindings: () => ask(RedirectFindings, 'GET', '/upkeep/redirects'),
  dismissed: () => ask(Dismissed, 'GET', '/upkeep/dismissed'),
  estimate: (check: ItemCheck) => ask(Estimate, 'GET', `/upkeep/estimate${search({ check })}`),
  toMeasure: () => ask(ToMeasure, 'GET', '/upkeep/to-measure'),
  measured: (page: string, shown: { start: number; wide: number }[]) =>
    ask(z.unknown(), 'POST', '/upkeep/measured', { page, shown }),
  aside: () => ask(z.array(ItemView), 'GET', '/upkeep/aside'),
  empty: (itemIds: number[], typed: string) => ask(Emptied, 'POST', '/upkeep/empty', { itemIds, typed }),
  pages: () => ask(z.array(PageView), 'GET', '/pages'),
  snippet: (id: number, form: 'plain' | 'html' | 'markdown', size: 'web' | 'full') =>
    ask(SnippetText, 'GET', `/items/${id}/snippet${search({ form, size })}`),
  async sendReplacement(id: number, file: File) {
    const answer = await fetch(`/api/items/${id}/replacement${search({ name: file.name })}`, {
      method: 'PUT',
      headers: { 'Content-Type': 'application/octet-stream' },
      body: file,
    });
    const value: unknown = await answer.json();
    if (!answer.ok) throw new Refused(FaultView.parse(value));
    return ReplacementView.parse(value);
  },
  dropArrivalQuietly: (id: number) => ask(z.unknown(), 'DELETE', `/arrivals/${id}`),
  broken: () => ask(z.array(BrokenView), 'GET', '/broken'),
  live: () => ask(LiveView, 'GET', '/live'),
  readLive: (address: string) => ask(LiveView, 'POST', '/live', { address }),
  forgetLive: () => ask(LiveView, 'DELETE', '/live'),
  layout: () => ask(LayoutView, 'GET', '/layout'),
  galleryMembers: (from: Query) => ask(z.array(z.int()), 'GET', `/gallery-members${search(from)}`),
  placement: (page: string, start: number) =>
    ask(PlacementDetail, 'GET', `/pages/placement${search({ page, start })}`),
  page: (path: string) => ask(PageDetail, 'GET', `/pages/detail${search({ path })}`),
  plan: (request: PlanRequest) => ask(PlanView, 'POST', '/plans', request),
  apply: (planId: string, note = '') => ask(Applied, 'POST', `/plans/${planId}/apply`, { note }),
  setNote: (entryId: number, note: string) => ask(z.unknown(), 'PUT', `/ledger/${entryId}/note`, { note }),
  cancelJob: (id: string) => ask(z.unknown(), 'POST', `/jobs/${id}/cancel`, {}),
  ledger: (before?: number) => ask(z.array(EntryView), 'GET', `/ledger${search({ before })}`),
  entry: (id: number) => ask(PlanView, 'GET', `/ledger/${id}`),
  arrivals: (after: number) => ask(ArrivalList, 'GET', `/arrivals${search({ after })}`),
  changeArrivals: (ids: number[], change: ArrivalChange) =>
    ask(z.array(ArrivalView), 'PATCH', '/arrivals', { ids, ...change }),
  dropArrival: (id: number) => ask(z.unknown(), 'DELETE', `/arrivals/${id}`),
  unpack: (id: number) => ask(Unpacked, 'POST', `/arrivals/${id}/unpack`, {}),
  fetchArrival: (address: string, folder: string) =>
    ask(Fetched, 'POST', '/arrivals/fetch', { address, folder }),
  bringIn: (arrivalIds: number[], as: 'items' | 'drafts') =>
    ask(BroughtIn, 'POST', '/arrivals/bring-in', { arrivalIds, as }),
  folderRules: () => ask(FolderRules, 'GET', '/folder-rules'),
  describe: (id: number) => ask(DescribeView, 'GET', `/items/${id}/describe`),
  /** It may take a second or two: whoever goes on calls it off. */
  recognise: (id: number, signal: AbortSignal) =>
    ask(RecognisedText, 'POST', `/items/${id}/recognise`, {}, signal),
  sameAlt: (alt: string, id: number) => ask(z.array(z.string()), 'GET', `/same-alt${search({ alt, id })}`),
  tableOut: async (ids: readonly number[] | 'all') => {
    const answer = await fetch('/api/tables/out', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ ids }),
    });
    if (!answer.ok) throw new Refused(FaultView.parse(await answer.json()));
    return answer.blob();
  },
  tableIn: (text: string) => ask(TableView, 'POST', '/tables/in', { text }),
  wordDifferences: () => ask(WordDifferences, 'GET', '/word-differences'),
  naming: (ids: readonly number[]) => ask(NamingTable, 'POST', '/naming', { ids }),
  namePatterns: () => ask(SavedPatterns, 'GET', '/name-patterns'),
  ownFields: () => ask(OwnFields, 'GET', '/own-fields'),
  redirects: () => ask(RedirectsView, 'GET', '/redirects'),
  exports: () => ask(z.array(ExportView), 'GET', '/exports'),
  edit: (of: 'items' | 'arrivals', id: number) => ask(EditView, 'GET', `/${of}/${id}/edit`),
  framings: (itemIds: readonly number[], treatment: Treatment) =>
    ask(z.array(FramingView), 'POST', '/treatments/framing', { itemIds, treatment }),
  treatments: () => ask(z.array(Treatment), 'GET', '/treatments'),
  tryRecipe: (of: 'items' | 'arrivals', id: number, recipe: Recipe, signal?: AbortSignal) =>
    ask(TriedView, 'POST', `/${of}/${id}/edit/try`, { recipe }, signal),
  subject: (of: 'items' | 'arrivals', id: number) => ask(SubjectView, 'GET', `/${of}/${id}/edit/subject`),
  madeImage,
  makeExport: (itemIds: number[] | 'all', form: ExportForm, options: ExportOptions) =>
    ask(ExportView, 'POST', '/exports', { itemIds, form, options }),
};

/**
 * Follows the server's events, on one connection for all windows where the browser can share one. A page that is left lets go at once: a page
 * kept for going back would hold it.
 */
export function follow(on: {
  job: (job: JobView) => void;
  changed: () => void;
  arrivals: () => void;
  /** Somebody may do other things now, or is signed out. */
  people: () => void;
  /** A proposal was made or answered. */
  submissions: () => void;
  following: () => void;
  /** Something has changed since what was answered, and no event told of it. */
  missed: () => void;
  lost: () => void;
}): void {
  onMissed = on.missed;
  const hand = ({ event, data }: EventMessage) => {
    if (event === 'job') return on.job(JobView.parse(data));
    if (event === 'changed' || event === 'following') followed = String(data);
    on[event]();
    if (event !== 'following') return;
    if ([...seenBefore].some((revision) => revision !== followed)) on.missed();
    seenBefore.clear();
  };
  let leave = () => {};
  const start = () => {
    if (typeof SharedWorker === 'undefined') {
      leave = connect(hand);
      return;
    }
    const worker = new SharedWorker(new URL('./events-worker.ts', import.meta.url), { type: 'module' });
    worker.port.onmessage = ({ data }: MessageEvent<EventMessage>) => hand(data);
    leave = () => {
      worker.port.postMessage('left');
      worker.port.close();
    };
  };
  window.addEventListener('pagehide', () => leave());
  window.addEventListener('pageshow', (event) => {
    if (event.persisted) start();
  });
  start();
}
