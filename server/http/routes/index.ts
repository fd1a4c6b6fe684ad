import type { Services } from '../context.ts';
import type { Route } from '../route.ts';
import { accountRoutes, factorRoutes, providedRoutes, tokenRoutes } from './account.ts';
import { arrivalRoutes } from './arrivals.ts';
import { describeRoutes } from './describe.ts';
import { documentRoutes } from './documents.ts';
import { doorRoutes } from './door.ts';
import { editRoutes } from './edits.ts';
import { exportRoutes } from './exports.ts';
import { imageBankRoutes } from './image-bank.ts';
import { itemFileRoutes } from './item-files.ts';
import { itemRoutes } from './items.ts';
import { jobRoutes } from './jobs.ts';
import { namingRoutes } from './naming.ts';
import { pageRoutes } from './pages.ts';
import { peopleRoutes } from './people.ts';
import { planRoutes } from './plans.ts';
import { savedQueryRoutes } from './saved-queries.ts';
import { submissionRoutes } from './submissions.ts';
import { siteRoutes } from './site.ts';
import { suggestionRoutes } from './suggestions.ts';
import { suggestedTagsRoutes } from './suggested-tags.ts';
import { upkeepRoutes } from './upkeep.ts';

/** Every way to reach the server, in the order in which they are tried. */
export const routesOf = (services: Services): Route[] =>
  [
    doorRoutes,
    accountRoutes,
    providedRoutes,
    factorRoutes,
    tokenRoutes,
    peopleRoutes,
    siteRoutes,
    itemRoutes,
    itemFileRoutes,
    editRoutes,
    savedQueryRoutes,
    namingRoutes,
    describeRoutes,
    pageRoutes,
    documentRoutes,
    planRoutes,
    submissionRoutes,
    upkeepRoutes,
    suggestionRoutes,
    arrivalRoutes,
    suggestedTagsRoutes,
    imageBankRoutes,
    exportRoutes,
    jobRoutes,
  ].flatMap((routes) => routes(services));
