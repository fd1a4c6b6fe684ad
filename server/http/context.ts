import type { Logger } from 'pino';
import type { Exports } from '../export/export.ts';
import type { Arrivals } from '../intake/arrivals.ts';
import type { FetchSetting } from '../services/outgoing.ts';
import type { Uploads } from '../intake/uploads.ts';
import type { Proposals } from '../changes/proposal.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import type { Person } from '../db/people.ts';
import type { Preview } from '../preview/preview.ts';

/** What every route finds in its context. No route runs without a person. */
export interface State {
  person: Person;
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
  /** For the tests: every answer is compared with its schema before it is sent. */
  checkAnswers?: boolean;
}

export interface Services extends Omit<AppParts, 'fetching'> {
  proposals: Proposals;
  arrivals: Arrivals;
  uploads: Uploads;
  fetching: FetchSetting;
  exports: Exports;
  /** Ids of people by the token of their session. */
  sessions: Map<string, number>;
}
