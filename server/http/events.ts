import { PassThrough } from 'node:stream';
import { Fault } from '../fault.ts';
import type { Route, Services } from './app.ts';

/** Server-sent events (HTML standard): jobs as they go on, and that the library has changed. */
export function eventRoutes(router: Route, { site }: Services): void {
  router.get('/jobs', (ctx) => {
    ctx.body = site.jobs.list();
  });

  router.post('/jobs/:id/cancel', (ctx) => {
    if (!site.jobs.cancel(String(ctx.params['id'])))
      throw new Fault('not-found', 'This work has ended already.', 'Nothing needs to be done.');
    ctx.body = {};
  });

  router.get('/events', (ctx) => {
    const stream = new PassThrough();
    const send = (event: string, data: unknown) =>
      stream.write(`event: ${event}\ndata: ${JSON.stringify(data)}\n\n`);
    let soon: NodeJS.Timeout | undefined;
    // A batch changes many times a second; a few times is as often as anyone can read.
    const arrivalsSoon = () =>
      (soon ??= setTimeout(() => {
        soon = undefined;
        send('arrivals', {});
      }, 250));
    const stops = [
      site.jobs.onProgress((job) => send('job', job)),
      site.onChange(() => send('changed', {})),
      site.checking.onChange(arrivalsSoon),
    ];
    const beat = setInterval(() => stream.write(': still here\n\n'), 20_000);
    ctx.res.on('close', () => {
      clearInterval(beat);
      clearTimeout(soon);
      for (const stop of stops) stop();
      stream.end();
    });
    ctx.set('Cache-Control', 'no-store');
    ctx.type = 'text/event-stream';
    ctx.status = 200;
    ctx.body = stream;
    for (const job of site.jobs.list()) send('job', job);
  });
}
