import type { SitePath } from '../../core/address/path.ts';
import { SiteMap } from '../../core/reference/resolve.ts';
import type { Survey } from './scan.ts';
import type { FileFacts } from '../../core/media/facts.ts';
import type { Files } from '../db/files.ts';
import type { Layout } from '../db/layout.ts';
import type { SiteState } from '../db/site-state.ts';

/** What is known of the site's files, as of the last scan and of what we have changed since. */
export class SiteIndex {
  /** Of every file. Only the scanner changes it. */
  files: Map<SitePath, FileFacts>;
  /** Where addresses lead. */
  map: SiteMap = new SiteMap([]);
  /** Grows with everything that a scan has found or a plan has changed. */
  epoch = 0;
  unreadable: Survey['unreadable'] = [];
  /** Folders as of the last scan, and those in which nothing lies. */
  folderPaths: ReadonlySet<SitePath> = new Set();
  emptyFolders: readonly SitePath[] = [];
  /** A scan has been made since the start: what the map says is of it. */
  scanned = false;
  /** Texts that could not even be searched for names: what they show is not known. */
  unsearched: SitePath[];
  private connectedNow: boolean;

  constructor(
    private readonly fileRows: Files,
    private readonly state: SiteState,
    private readonly layout: Layout,
  ) {
    this.files = fileRows.load();
    this.connectedNow = state.connected;
    this.unsearched = fileRows.unsearched();
  }

  /** Every file of the site. */
  get paths(): Iterable<SitePath> {
    return this.files.keys();
  }

  factsOf(path: SitePath): FileFacts | undefined {
    return this.files.get(path);
  }

  get pageCount(): number {
    let pages = 0;
    for (const one of this.files.values()) if (one.reading) pages++;
    return pages;
  }

  /** The public folders were found out from where addresses lead: nobody has said that they are. */
  get rootsGuessed(): boolean {
    const { roots } = this.map;
    return this.layout.get().public.length === 0 && !(roots.length === 1 && roots[0] === '');
  }

  /** What is stored of placements and mentions is of the files as they are. */
  get connected(): boolean {
    return this.connectedNow;
  }

  /** All is connected anew by the next scan. */
  disconnect(): void {
    this.connectedNow = false;
    this.state.setConnected(false);
  }

  /** @returns whether other texts are unsearched than were before */
  connect(): boolean {
    const unsearched = this.fileRows.unsearched();
    this.state.setConnected(true, unsearched.length === 0);
    this.connectedNow = true;
    const differs = this.unsearched.join('\n') !== unsearched.join('\n');
    this.unsearched = unsearched;
    return differs;
  }

  /** Why it cannot be said now that nothing uses an item; undefined: it can. */
  get useUnknown(): 'reading' | 'unread' | undefined {
    if (!this.connectedNow) return 'reading';
    return this.unsearched.length > 0 ? 'unread' : undefined;
  }

  /** What was stored of a scan that failed half way is what is known. */
  reload(): void {
    this.files = this.fileRows.load();
  }

  /** Takes over what a scan has found. */
  take(survey: Survey): void {
    this.map = survey.site;
    this.scanned = true;
    this.files = survey.files;
    this.unreadable = survey.unreadable;
    this.folderPaths = new Set(survey.folders);
    this.emptyFolders = survey.empty;
  }
}
