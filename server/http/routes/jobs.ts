import { PassThrough } from 'node:stream';
import { z } from 'zod';
import { JobView } from '../../../api/site.ts';
import { bearerOf } from '../middleware/guard.ts';
import type { SessionRow } from '../../db/sessions.ts';
import { Fault } from '../../fault.ts';
import type { Services } from '../context.ts';
import { defineRoute, Done, type Route } from '../route.ts';

/** Running work, and the stream of events by which windows follow it and the library. */
export const jobRoutes = ({ site }: Services): Route[] => [
  defineRoute({
    method: 'get',
    path: '/jobs',
    right: 'look',
    answer: z.array(JobView),
    handle: () => site.jobs.list(),
  }),

  defineRoute({
    method: 'post',
    path: '/jobs/:id/cancel',
    right: 'describe',
    params: z.strictObject({ id: z.string().max(100) }),
    body: 'Nothing',
    answer: Done,
    handle: ({ params }) => {
      if (!site.jobs.cancel(params.id))
        throw new Fault('not-found', 'This job has already ended.', 'Nothing needs to be done.');
      return {};
    },
  }),

  /** Server-sent events (HTML standard): jobs as they go on, and that the library has changed. */
  defineRoute({
    method: 'get',
    path: '/events',
    right: 'look',
    answer: 'own',
    handle: ({ ctx }) => {
      const bearer = bearerOf(ctx);
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
        site.events.on('changed', () => send('changed', site.events.revision)),
        site.events.on('arrivals', arrivalsSoon),
        site.events.on('submissions', () => send('submissions', {})),
        site.events.on('people', () => {
          const session = ctx.state.session as SessionRow | undefined;
          const goesOn = session
            ? site.access.sessions.goesOn(session.id) && site.people.get(session.personId)
            : bearer === undefined || site.access.isToken(bearer);
          // Whose session or token has ended hears nothing more.
          if (!goesOn) {
            send('people', {});
            stream.end();
          } else send('people', {});
        }),
      ];
      // A token ends by itself too.
      const beat = setInterval(() => {
        if (bearer === undefined || site.access.isToken(bearer)) stream.write(': still here\n\n');
        else stream.end();
      }, 20_000);
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
      send('following', site.events.revision);
      for (const job of site.jobs.list()) send('job', job);
    },
  }),
];
