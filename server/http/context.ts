import type { Tagging } from '../describe/tagging.ts';
import type { Chosen } from '../services/chosen.ts';
import type { Tagger } from '../services/tagger.ts';
import type { Logger } from 'pino';
import type { Exports } from '../export/export.ts';
import type { Arrivals } from '../intake/arrivals.ts';
import type { ImageBank } from '../services/image-bank.ts';
import type { FetchSetting } from '../services/outgoing.ts';
import type { Uploads } from '../intake/uploads.ts';
import type { Proposals } from '../changes/proposal.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import type { Person } from '../db/people.ts';
import type { SessionRow } from '../db/sessions.ts';
import type { ProviderDoor } from '../people/provider-door.ts';
import type { Preview } from '../preview/preview.ts';

/** What routes find in their context: who asks, and the session that says so; in the demo there may be none. */
export interface State {
  person?: Person;
  session?: SessionRow;
  /** The name of the token by which a program asks. */
  token?: string;
  /** Which of some items the person may not see. */
  hiddenOf?(ids: readonly number[]): ReadonlySet<number>;
}

export interface AppParts {
  site: OpenedSite;
  log: Logger;
  /** Origin under which the site itself is served. */
  servedAt: string;
  /** Host names (with port) that this application answers to. */
  hosts: readonly string[];
  /** How the served site shows pages with marks; default: it does not. */
  preview?: Preview;
  /** Default: nothing is fetched from other servers. */
  fetching?: FetchSetting;
  /** Where images are found and bought; default: nowhere. */
  imageBank?: ImageBank | undefined;
  /** Who says what is on images; default: nobody. */
  tagger?: Tagger | undefined;
  /** Whoever comes is the first person, and may be anyone: for the demo, on this machine only. */
  demo?: boolean;
  /** The organisation's provider, by which people may come in. */
  provider?: ProviderDoor | undefined;
  /** A proxy in front says who asks, and that it speaks TLS. */
  behindProxy?: boolean;
  /** For the tests: every answer is compared with its schema before it is sent. */
  checkAnswers?: boolean;
}

export interface Services extends Omit<AppParts, 'fetching' | 'imageBank' | 'tagger'> {
  bank: Chosen<ImageBank>;
  tagging: Tagging;
  proposals: Proposals;
  arrivals: Arrivals;
  uploads: Uploads;
  fetching: FetchSetting;
  exports: Exports;
}
