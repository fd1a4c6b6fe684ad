import { createReadStream } from 'node:fs';
import { Fault } from '../fault.ts';
import { THUMBNAIL_SIZES } from '../intake/derived.ts';
import type { Route, Services } from './app.ts';

export function thumbnailRoutes(router: Route, { site }: Services): void {
  /** A small picture of some bytes. Its address holds their hash, so browsers may keep it for ever. */
  router.get('/thumbnails/:size/:sha', async (ctx) => {
    const size = Number(ctx.params['size']);
    const sha256 = String(ctx.params['sha']);
    if (!THUMBNAIL_SIZES.includes(size as 320 | 1280) || !/^[0-9a-f]{64}$/.test(sha256)) {
      throw new Fault('not-found', 'There is no such preview.', 'Reload the application.');
    }
    const file = await site.deriving.file(sha256, size);
    ctx.set('Cache-Control', 'private, max-age=31536000, immutable');
    ctx.set('Content-Security-Policy', "default-src 'none'");
    ctx.type = 'image/webp';
    ctx.body = createReadStream(file);
  });
}
