import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { z } from 'zod';
import {} from '../../api/site.ts';
import { redirectRules, RULE_FORM_NAMES, RULE_FORMS } from '../../core/address/redirect-rules.ts';
import { redirectsOf } from '../site/redirects.ts';
import type { Route, Services } from './app.ts';
import { idOf, readBody } from './body.ts';

const RuleForms = z.enum(RULE_FORMS);

export function exportRoutes(router: Route, { exports, site }: Services): void {
  router.get('/exports', (ctx) => {
    ctx.body = exports.list();
  });

  router.get('/redirects', async (ctx) => {
    const { redirects, faults } = await redirectsOf(site);
    ctx.body = { count: redirects.length, faults: faults.slice(0, 100) };
  });
  router.get('/redirects/:form', async (ctx) => {
    const form = RuleForms.parse(ctx.params['form']);
    ctx.attachment(RULE_FORM_NAMES[form].file);
    ctx.type = 'text/plain; charset=utf-8';
    ctx.body = await redirectRules((await redirectsOf(site)).redirects, form);
  });

  router.post('/exports', async (ctx) => {
    const { itemIds } = await readBody(ctx, 'ExportRequest');
    ctx.body = await exports.make(itemIds, ctx.state.person.id);
  });

  router.get('/exports/:id/file', async (ctx) => {
    const file = exports.file(idOf(ctx));
    ctx.attachment(`${basename(site.folder.root)}-${basename(file)}`);
    ctx.length = (await stat(file)).size;
    ctx.type = 'application/zip';
    ctx.body = createReadStream(file);
  });
}
