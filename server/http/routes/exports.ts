import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { z } from 'zod';
import { ExportView } from '../../../api/site.ts';
import { RedirectsView } from '../../../api/upkeep.ts';
import { redirectRules, RULE_FORM_NAMES, RULE_FORMS } from '../../../core/address/redirect-rules.ts';
import { redirectsOf } from '../../scan/redirects.ts';
import type { Services } from '../context.ts';
import { may } from '../../../core/people/rights.ts';
import { defineRoute, Id, needRight, type Route } from '../route.ts';

/** What is handed out: archives of items, redirects as rules of a web server. */
export const exportRoutes = ({ exports, site }: Services): Route[] => [
  defineRoute({
    method: 'get',
    path: '/exports',
    right: 'look',
    answer: z.array(ExportView),
    handle: ({ person }) =>
      exports.list().filter(({ form }) => form !== 'archive' || may(person.role, 'archive')),
  }),

  defineRoute({
    method: 'post',
    path: '/exports',
    right: 'download',
    body: 'ExportRequest',
    answer: ExportView,
    handle: ({ body, person }) => {
      if (body.form === 'archive') needRight(person, 'archive');
      return exports.make(body.itemIds, person.id, body.form, body.options);
    },
  }),

  defineRoute({
    method: 'get',
    path: '/exports/:id/file',
    right: 'download',
    params: Id,
    answer: 'file',
    handle: async ({ params, person }) => {
      if (exports.form(params.id) === 'archive') needRight(person, 'archive');
      const file = exports.file(params.id);
      return {
        type: file.endsWith('.pdf') ? 'application/pdf' : 'application/zip',
        length: (await stat(file)).size,
        download: `${basename(site.folder.root)}-${basename(file)}`,
        body: createReadStream(file),
      };
    },
  }),

  defineRoute({
    method: 'get',
    path: '/redirects',
    right: 'look',
    answer: RedirectsView,
    handle: async () => {
      const { redirects, faults } = await redirectsOf(site);
      return { count: redirects.length, faults: faults.slice(0, 100) };
    },
  }),

  defineRoute({
    method: 'get',
    path: '/redirects/:form',
    right: 'download',
    params: z.strictObject({ form: z.enum(RULE_FORMS) }),
    answer: 'file',
    handle: async ({ params: { form } }) => ({
      type: 'text/plain; charset=utf-8',
      download: RULE_FORM_NAMES[form].file,
      body: Buffer.from(await redirectRules((await redirectsOf(site)).redirects, form)),
    }),
  }),
];
