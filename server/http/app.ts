import { Tagging } from '../describe/tagging.ts';
import { Chosen } from '../services/chosen.ts';
import { ImageBank } from '../services/image-bank.ts';
import { Tagger } from '../services/tagger.ts';
import Koa from 'koa';
import type { ServiceName } from '../../core/plan/kinds/service.ts';
import { Exports } from '../export/export.ts';
import { Arrivals } from '../intake/arrivals.ts';
import { Uploads } from '../intake/uploads.ts';
import { Proposals } from '../changes/proposal.ts';
import type { AppParts, Services } from './context.ts';
import { ownHostsOnly, readableAddresses, tidyCookies } from './middleware/guard.ts';
import { answerFaults } from './middleware/faults.ts';
import { libraryRevision, securityHeaders } from './middleware/headers.ts';
import { logRequests } from './middleware/log.ts';
import { routerOf } from './route.ts';
import { routesOf } from './routes/index.ts';
import { withPerson } from './session.ts';
import { staticFiles } from './static.ts';

/** What the routes work with, made of what the server was started with. */
export function servicesOf({ imageBank, tagger, ...parts }: AppParts): Services {
  const { site, fetching = { allowed: false, hosts: [] } } = parts;
  const address = (service: ServiceName) => () => site.serviceSettings.address(service);
  const taggers = new Chosen(
    address('tagging'),
    tagger,
    fetching,
    (base, reach) => new Tagger(base, undefined, undefined, reach),
  );
  return {
    ...parts,
    bank: new Chosen(
      address('image-bank'),
      imageBank,
      fetching,
      (base, reach) => new ImageBank(base, undefined, undefined, reach),
    ),
    tagging: new Tagging(site, taggers),
    proposals: parts.preview?.proposals ?? new Proposals(parts.site.planBytes),
    arrivals: new Arrivals(site),
    uploads: new Uploads(site),
    fetching,
    exports: new Exports(site),
  };
}

/** The application over HTTP: each request passes these in turn. */
export function createApp(parts: AppParts): Koa {
  const services = servicesOf(parts);
  services.tagging.goOn();
  const app = new Koa({ proxy: parts.behindProxy ?? false, maxIpsCount: 1 });
  app.on('error', (error: Error) => parts.log.debug({ error }, 'the other side went away'));
  app.use(logRequests(parts.log));
  app.use(answerFaults(parts.log));
  app.use(securityHeaders(parts.servedAt));
  app.use(libraryRevision(parts.site.events));
  app.use(readableAddresses);
  app.use(ownHostsOnly(parts.hosts));
  app.use(tidyCookies);
  app.use(withPerson(services));
  app.use(routerOf(routesOf(services), parts.checkAnswers ?? false).routes());
  app.use(staticFiles());
  return app;
}
