import type { Server } from 'node:http';
import { readFile, rm, writeFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import type Koa from 'koa';
import pino from 'pino';
import { Fault } from './fault.ts';
import { newLog, toldOf } from './log.ts';
import { createApp } from './http/app.ts';
import { newPreview } from './preview/preview.ts';
import { serverFor, type Tls } from './http/server.ts';
import { createServedSite } from './preview/served-site.ts';
import { Proposals } from './changes/proposal.ts';
import { sweep } from './files/leftovers.ts';
import { openSite } from './app/open-site.ts';
import type { OpenedSite } from './app/opened-site.ts';
import { roleSetter } from './changes/people.ts';
import { ImageBank } from './services/image-bank.ts';
import { Tagger } from './services/tagger.ts';
import { readUrl } from './services/outgoing.ts';
import { ProviderDoor } from './people/provider-door.ts';
import { Provider, ProviderSetting } from './people/provider.ts';
import { watchSite } from './files/watch.ts';

const USAGE =
  'Usage: npm start -- --site DIR [--data DIR] [--port N] [--host ADDRESS] [--name NAME] [--tls-cert FILE --tls-key FILE] [--behind-proxy] [--site-host NAME] [--demo] [--people "Name:role,Name:role"] [--fetch] [--fetch-host NAME:PORT] [--provider FILE] [--image-bank URL] [--tagging-service URL] [--keep-private] [--check-at HH:MM]';

/** What is written into the data folder is the server's user's alone; files and folders of the site get their rights one by one. */
process.umask(0o077);

/** Opens a site and serves the application; the site itself is served on the next port. */
async function main(): Promise<void> {
  const { values } = parseArgs({
    options: {
      site: { type: 'string' },
      data: { type: 'string' },
      port: { type: 'string', default: '4310' },
      host: { type: 'string', default: '127.0.0.1' },
      'site-host': { type: 'string' },
      people: { type: 'string' },
      demo: { type: 'boolean', default: false },
      name: { type: 'string', multiple: true, default: [] },
      'behind-proxy': { type: 'boolean', default: false },
      'tls-cert': { type: 'string' },
      'tls-key': { type: 'string' },
      provider: { type: 'string' },
      'image-bank': { type: 'string' },
      'tagging-service': { type: 'string' },
      fetch: { type: 'boolean', default: false },
      'keep-private': { type: 'boolean', default: false },
      'check-at': { type: 'string', default: '03:00' },
      'fetch-host': { type: 'string', multiple: true, default: [] },
    },
  });
  if (!values.site) throw new Fault('bad-request', 'No site was named.', USAGE);
  const port = Number(values.port);
  if (!Number.isInteger(port) || port < 1 || port > 65534)
    throw new Fault('bad-request', `“${values.port}” is no port.`, USAGE);
  const local = LOOPBACK.has(values.host);
  const tls = await readTls(values['tls-cert'], values['tls-key']);
  if (values.demo && !local)
    throw new Fault(
      'bad-request',
      'In the demo whoever comes may do everything, so it is served on this machine only.',
      'Leave out --host, or leave out --demo and sign in.',
    );
  const provider = values.provider === undefined ? undefined : await readProvider(values.provider);
  const checkAt = /^([01]?\d|2[0-3]):([0-5]\d)$/.exec(values['check-at']);
  if (!checkAt) throw new Fault('bad-request', `“${values['check-at']}” is no time of the day.`, USAGE);
  const log = newLog(process.env['ICONOMOS_LOG'] ?? 'info', pino.destination(2));
  const people = values.people?.split(',').map((one) => {
    const [name = '', role = 'editor'] = one.split(':');
    return { name: name.trim(), role: role.trim() };
  });

  say(`Opening ${resolve(values.site)}`);
  const site = await openSite({
    site: values.site,
    data: values.data,
    keepPrivate: values['keep-private'],
    tell: say,
    ...(people ? { people } : {}),
  });
  const { isSet } = site.access;
  if (!local && !(isSet && (tls || values['behind-proxy']))) {
    await site.close();
    throw new Fault(
      'bad-request',
      isSet
        ? `On ${values.host} passwords would cross the network for anyone to read.`
        : `On ${values.host} anyone could come in before a steward has set a password.`,
      isSet
        ? 'Name a certificate with --tls-cert and --tls-key, or put a proxy that speaks TLS in front and say --behind-proxy.'
        : 'Start once without --host, and set it by the link that is printed.',
    );
  }
  for (const told of await site.scanner.settle()) say(`After an interrupted run: ${told}`);
  await sweep(site, true);

  const hostnames =
    values.host === '127.0.0.1' ? ['127.0.0.1', 'localhost'] : [values.host, 'localhost', '127.0.0.1'];
  // A proxy asks by the name that people know, with the port that they know.
  const hosts = [
    ...hostnames.map((name) => `${name}:${port}`),
    ...values.name.map((name) => name.toLowerCase()),
  ];
  const scheme = tls ? 'https' : 'http';
  const origins = hosts.flatMap((host) =>
    values['behind-proxy'] ? [`${scheme}://${host}`, `https://${host}`] : [`${scheme}://${host}`],
  );
  // Another name for the same machine, so that no page of the site shares cookies with the application; browsers know where it is.
  const siteHost = values['site-host'] ?? (values.host === '127.0.0.1' ? 'site.localhost' : hostnames[0]!);
  const servedHosts = [...new Set([siteHost, ...hostnames])].map((name) => `${name}:${port + 1}`);
  const servedAt = `${scheme}://${servedHosts[0]}`;
  const bankAddress = values['image-bank'];
  const imageBank = bankAddress === undefined ? undefined : new ImageBank(readUrl(bankAddress));
  const taggerAddress = values['tagging-service'];
  const tagger = taggerAddress === undefined ? undefined : new Tagger(readUrl(taggerAddress));
  const fetching = { allowed: values.fetch, hosts: values['fetch-host'] };
  const proposals = new Proposals(site.planBytes);
  const preview = newPreview(proposals);
  const { demo } = values;
  const behindProxy = values['behind-proxy'];
  const app = await listen(
    createApp({
      site,
      log,
      servedAt,
      hosts,
      fetching,
      preview,
      demo,
      behindProxy,
      imageBank,
      tagger,
      provider: provider && new ProviderDoor(site, provider, roleSetter(site, provider.setting.name)),
    }),
    port,
    values.host,
    tls,
  );
  const served = await listen(
    createServedSite({ site, log, appOrigins: origins, hosts: servedHosts, preview }),
    port + 1,
    values.host,
    tls,
  );

  let lastTold = 0;
  const stopTelling = site.jobs.onProgress((job) => {
    if (job.state !== 'running' || Date.now() - lastTold < 1000 || job.total === 0) return;
    lastTold = Date.now();
    say(`  ${job.title}: ${job.done} of ${job.total} ${job.what}`);
  });
  const result = await site.scanner.scan(true);
  say(
    `${site.finder.counts().items} items; ${result.changed} files read, ${result.removed} gone since the last time.`,
  );
  if (demo)
    say(
      '\nDemo: whoever opens the address works as its steward, and may be anyone. Nothing here is private.',
    );
  else if (!site.access.isSet) {
    await sayFirstLink(site, origins[0]!);
    const used = site.events.on('people', () => {
      if (!site.access.isSet) return;
      used();
      inBackground(rm(site.data.firstLink, { force: true }), 'the first link could not be removed');
    });
  }
  say(`\nIconomos is at  ${origins[0]}/\nThe site itself ${servedAt}/\nStop it with Ctrl+C.`);
  const inBackground = (work: Promise<unknown>, what: string): void => {
    work.catch((error: unknown) => {
      if (!stopping) log.error({ error }, what);
    });
  };
  site.checking.resume();
  const look = () => inBackground(site.analyser.analyseAll(), 'preview at items failed');
  look();
  const stopLooking = site.events.on('changed', look);
  const stopWatching = watchSite(site, (error) => log.error({ error }, 'watching failed'));

  // Once a day all is checked, so that what depends on the date is told, and how the library stands is kept.
  let daily: NodeJS.Timeout;
  const waitForDay = () => {
    const next = new Date();
    next.setHours(Number(checkAt[1]), Number(checkAt[2]), 0, 0);
    if (next.getTime() <= Date.now()) next.setDate(next.getDate() + 1);
    daily = setTimeout(() => {
      inBackground(site.checks.daily(), 'the daily checks failed');
      waitForDay();
    }, next.getTime() - Date.now());
  };
  waitForDay();

  const sweeping = setInterval(() => inBackground(sweep(site, false), 'sweeping failed'), 3600_000);

  let stopping = false;
  const stop = async () => {
    if (stopping) return;
    stopping = true;
    say('\nStopping …');
    clearTimeout(daily);
    clearInterval(sweeping);
    stopTelling();
    stopLooking();
    await stopWatching();
    for (const server of [app, served]) {
      server.close();
      server.closeAllConnections();
    }
    await site.close();
    process.exit(0);
  };
  const stopNow = () =>
    stop().catch((error: unknown) => {
      log.error({ error }, 'stopping failed');
      process.exit(1);
    });
  process.on('SIGINT', stopNow);
  process.on('SIGTERM', stopNow);
}

const LOOPBACK = new Set(['127.0.0.1', '::1', 'localhost']);

/** @throws Fault when only one of both is named, or a file cannot be read */
async function readTls(cert: string | undefined, key: string | undefined): Promise<Tls | undefined> {
  if (cert === undefined && key === undefined) return undefined;
  if (cert === undefined || key === undefined)
    throw new Fault(
      'bad-request',
      'TLS needs a certificate and its key.',
      'Name both, --tls-cert and --tls-key.',
    );
  try {
    return { cert: await readFile(cert), key: await readFile(key) };
  } catch (error) {
    throw new Fault(
      'bad-request',
      `The certificate or its key can’t be read: ${(error as Error).message}.`,
      USAGE,
    );
  }
}

/** @throws Fault when the file can't be read, or says something else */
async function readProvider(path: string): Promise<Provider> {
  let text: string;
  try {
    text = await readFile(path, 'utf8');
  } catch (error) {
    throw new Fault('bad-request', `The provider’s file can’t be read: ${(error as Error).message}.`, USAGE);
  }
  const read = ProviderSetting.safeParse(parsed(text));
  if (read.success) return new Provider(read.data);
  const { path: at, message } = read.error.issues[0]!;
  throw new Fault(
    'bad-request',
    `The provider’s file ${path} is not as it should be: ${[...at, message].join(': ')}.`,
    'See “An organisation’s provider” in docs/security.md.',
  );
}

/** @returns undefined for what is no JSON */
function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** The link by which the first steward comes in: printed, and kept where only the server's user can read it. */
async function sayFirstLink(site: OpenedSite, origin: string): Promise<void> {
  const link = `${origin}/welcome#${site.access.firstLink()}`;
  await rm(site.data.firstLink, { force: true });
  await writeFile(site.data.firstLink, `${link}\n`, { mode: 0o600 });
  say(
    `\nNobody can sign in yet. Open this link within a day and set your name and password:\n  ${link}\nIt is kept in ${site.data.firstLink} too.`,
  );
}

function listen(app: Koa, port: number, host: string, tls?: Tls): Promise<Server> {
  const server = serverFor(app.callback(), tls);
  return new Promise((done, failed) => {
    server.once('error', (error: NodeJS.ErrnoException) =>
      failed(
        error.code === 'EADDRINUSE'
          ? new Fault(
              'busy',
              `Port ${port} is taken on this machine.`,
              'Name another with --port (the next one is used too).',
            )
          : error,
      ),
    );
    server.listen(port, host, () => done(server));
  });
}

function say(text: string): void {
  process.stdout.write(`${text}\n`);
}

main().catch((error: unknown) => {
  if (error instanceof Fault) process.stderr.write(`${error.message} ${error.remedy}\n`);
  else process.stderr.write(`Iconomos could not start: ${toldOf(error)}\n`);
  process.exit(2);
});
