import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { ExportRequest } from '../../api/site.ts';
import type { Route, Services } from './app.ts';
import { idOf, readBody } from './body.ts';

export function exportRoutes(router: Route, { exports, site }: Services): void {
  router.get('/exports', (ctx) => {
    ctx.body = exports.list();
  });

  router.post('/exports', async (ctx) => {
    const { itemIds } = await readBody(ctx, ExportRequest);
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
