import { z } from 'zod';
import {
  FacetsView,
  FolderView,
  ItemDetail,
  ItemList,
  ItemSum,
  ItemView,
  SavedQuery,
  TagCounts,
  type AddressForm,
  PageDetail,
  PageView,
  type SaveWords,
} from '../../api/items.ts';
import { Applied, EntryView, PlanView, type PlanRequest } from '../../api/plans.ts';
import {
  ArrivalList,
  ArrivalView,
  BroughtIn,
  FolderRules,
  type ArrivalChange,
  type FolderRuleView,
} from '../../api/intake.ts';
import { ExportView, FaultView, JobView, SiteView } from '../../api/site.ts';

/** What the server refused, with the sentences for the person. */
export class Refused extends Error {
  constructor(readonly fault: FaultView) {
    super(fault.message);
    this.name = 'Refused';
  }
}

/** One sentence for any error: what the server said, or that it could not be reached. */
export function sentenceOf(error: unknown): string {
  if (error instanceof Refused) return `${error.fault.message} ${error.fault.remedy}`;
  if (error instanceof TypeError)
    return 'The server does not answer. Check that it still runs, then try again.';
  return error instanceof Error ? error.message : String(error);
}

async function ask<Schema extends z.ZodType>(
  schema: Schema,
  method: string,
  path: string,
  body?: unknown,
): Promise<z.infer<Schema>> {
  const answer = await fetch(`/api${path}`, {
    method,
    ...(body === undefined
      ? {}
      : { headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) }),
  });
  const value: unknown = await answer.json();
  if (!answer.ok) throw new Refused(FaultView.parse(value));
  return schema.parse(value);
}

/** All that a query finds, as the server packs it. */
async function found(query: Query): Promise<{ ids: Uint32Array; ratios: Uint16Array; bytes: number }> {
  const answer = await fetch(`/api/items/found${search(query)}`);
  if (!answer.ok) throw new Refused(FaultView.parse(await answer.json()));
  const packed = await answer.arrayBuffer();
  const length = (packed.byteLength - 8) / 6;
  return {
    bytes: new Float64Array(packed, 0, 1)[0]!,
    ids: new Uint32Array(packed, 8, length),
    ratios: new Uint16Array(packed, 8 + 4 * length, length),
  };
}

export type Query = Record<string, string | number | undefined>;

function search(query: Query): string {
  const entries = Object.entries(query).filter(([, value]) => value !== undefined && value !== '');
  return entries.length === 0
    ? ''
    : `?${new URLSearchParams(entries.map(([key, value]) => [key, String(value)]))}`;
}

export const api = {
  site: () => ask(SiteView, 'GET', '/site'),
  scan: () => ask(z.object({ changed: z.int() }), 'POST', '/scan', {}),
  choosePerson: (personId: number) => ask(z.unknown(), 'POST', '/session', { personId }),
  items: (query: Query) => ask(ItemList, 'GET', `/items${search(query)}`),
  itemsFound: (query: Query) => found(query),
  itemsSome: (ids: readonly number[]) =>
    ids.length === 0
      ? Promise.resolve([])
      : ask(z.array(ItemView), 'GET', `/items/some${search({ ids: ids.join(',') })}`),
  itemsSum: (ids: readonly number[]) => ask(ItemSum, 'POST', '/items/sum', { ids }),
  tagsOf: (ids: readonly number[]) => ask(TagCounts, 'POST', '/items/tags', { ids }),
  addressesOf: (ids: readonly number[], form: AddressForm) =>
    ask(z.object({ text: z.string() }), 'POST', '/items/addresses', { ids, form }),
  facets: (query: Query) => ask(FacetsView, 'GET', `/items/facets${search(query)}`),
  savedQueries: () => ask(z.array(SavedQuery), 'GET', '/saved-queries'),
  saveQuery: (name: string, query: string) => ask(z.unknown(), 'PUT', '/saved-queries', { name, query }),
  dropQuery: (id: number) => ask(z.unknown(), 'DELETE', `/saved-queries/${id}`),
  item: (id: number) => ask(ItemDetail, 'GET', `/items/${id}`),
  saveWords: (id: number, change: SaveWords) => ask(ItemView, 'PATCH', `/items/${id}`, change),
  folders: () => ask(z.array(FolderView), 'GET', '/folders'),
  tags: () => ask(TagCounts, 'GET', '/tags'),
  copies: () => ask(z.array(z.array(ItemView)), 'GET', '/copies'),
  pages: () => ask(z.array(PageView), 'GET', '/pages'),
  page: (path: string) => ask(PageDetail, 'GET', `/pages/detail${search({ path })}`),
  plan: (request: PlanRequest) => ask(PlanView, 'POST', '/plans', request),
  apply: (planId: string) => ask(Applied, 'POST', `/plans/${planId}/apply`, {}),
  ledger: (before?: number) => ask(z.array(EntryView), 'GET', `/ledger${search({ before })}`),
  entry: (id: number) => ask(PlanView, 'GET', `/ledger/${id}`),
  arrivals: (after: number) => ask(ArrivalList, 'GET', `/arrivals${search({ after })}`),
  changeArrivals: (ids: number[], change: ArrivalChange) =>
    ask(z.array(ArrivalView), 'PATCH', '/arrivals', { ids, ...change }),
  dropArrival: (id: number) => ask(z.unknown(), 'DELETE', `/arrivals/${id}`),
  unpack: (id: number) => ask(z.object({ files: z.int() }), 'POST', `/arrivals/${id}/unpack`, {}),
  fetchArrival: (address: string, folder: string) =>
    ask(z.object({ id: z.int() }), 'POST', '/arrivals/fetch', { address, folder }),
  bringIn: (arrivalIds: number[]) => ask(BroughtIn, 'POST', '/arrivals/bring-in', { arrivalIds }),
  folderRules: () => ask(FolderRules, 'GET', '/folder-rules'),
  setFolderRule: (rule: FolderRuleView) => ask(z.unknown(), 'PUT', '/folder-rules', rule),
  dropFolderRule: (folder: string) => ask(z.unknown(), 'DELETE', `/folder-rules${search({ folder })}`),
  exports: () => ask(z.array(ExportView), 'GET', '/exports'),
  makeExport: (itemIds: number[] | 'all') => ask(ExportView, 'POST', '/exports', { itemIds }),
};

/**
 * Follows the server's events. A page that is left lets go of its connection at once: browsers keep only six to one
 * server, and a page kept for going back would hold one of them.
 */
export function follow(on: {
  job: (job: JobView) => void;
  changed: () => void;
  arrivals: () => void;
  connected: (yes: boolean) => void;
}): void {
  let events: EventSource | undefined;
  const connect = () => {
    events = new EventSource('/api/events');
    events.addEventListener('job', (event) =>
      on.job(JobView.parse(JSON.parse((event as MessageEvent<string>).data))),
    );
    events.addEventListener('changed', () => on.changed());
    events.addEventListener('arrivals', () => on.arrivals());
    events.onopen = () => on.connected(true);
    events.onerror = () => on.connected(false);
  };
  window.addEventListener('pagehide', () => events?.close());
  window.addEventListener('pageshow', (event) => {
    if (event.persisted) connect();
  });
  connect();
}
