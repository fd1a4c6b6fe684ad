import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Logger } from 'pino';
import { newLog } from '../log.ts';
import { createApp } from '../http/app.ts';
import type { AppParts } from '../http/context.ts';
import { newPreview } from '../preview/preview.ts';
import { createServedSite } from '../preview/served-site.ts';
import { serverFor } from '../http/server.ts';
import { Proposals } from '../changes/proposal.ts';
import type { OpenedSite } from '../app/opened-site.ts';

/** The application and the site as visitors see it, each on a port of its own. */
export interface Served {
  app: string;
  served: string;
  /** A request as the application's own window sends it. */
  ask: (method: string, path: string, body?: unknown, headers?: Record<string, string>) => Promise<Response>;
  /** What the log has said so far, line by line. */
  logged: Record<string, unknown>[];
  log: Logger;
  close: () => void;
}

export async function serve(
  site: OpenedSite,
  {
    demo = true,
    imageBank,
    tagger,
    fetching,
  }: Pick<AppParts, 'demo' | 'imageBank' | 'tagger' | 'fetching'> = {},
): Promise<Served> {
  const logged: Record<string, unknown>[] = [];
  const log = newLog('trace', {
    write: (line: string) => void logged.push(JSON.parse(line) as Record<string, unknown>),
  });
  const servers: Server[] = [];
  const hosts: string[] = [];
  const listening = async (server: Server) => {
    servers.push(server);
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    return `127.0.0.1:${(server.address() as AddressInfo).port}`;
  };
  const preview = newPreview(new Proposals(site.planBytes));
  const host = await listening(serverFor((req, res) => handle(req, res)));
  const app = `http://${host}`;
  const servedHosts: string[] = [];
  servedHosts.push(
    await listening(
      createServer(
        createServedSite({ site, log, appOrigins: [app], hosts: servedHosts, preview }).callback(),
      ),
    ),
  );
  servedHosts.push(servedHosts[0]!.replace('127.0.0.1', 'localhost'));
  const served = `http://${servedHosts[0]}`;
  hosts.push(host);
  const handle = createApp({
    site,
    log,
    servedAt: served,
    hosts,
    preview,
    demo,
    imageBank,
    tagger,
    ...(fetching ? { fetching } : {}),
    checkAnswers: true,
  }).callback();
  return {
    app,
    served,
    logged,
    log,
    ask: (method, path, body, headers = {}) =>
      fetch(app + path, {
        method,
        headers: {
          ...(method === 'GET' ? {} : { Origin: app }),
          ...(body === undefined ? {} : { 'Content-Type': 'application/json' }),
          ...headers,
        },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      }),
    close: () => {
      for (const server of servers) {
        server.closeAllConnections();
        server.close();
      }
    },
  };
}
