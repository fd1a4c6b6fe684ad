import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { extname, join, normalize } from 'node:path';
import type { Context, Next } from 'koa';
import { buildFolder } from '../built.ts';

const TYPES: Record<string, string> = {
  '.html': 'text/html; charset=utf-8',
  '.js': 'text/javascript; charset=utf-8',
  '.css': 'text/css; charset=utf-8',
  '.svg': 'image/svg+xml',
  '.woff2': 'font/woff2',
  '.woff': 'font/woff',
  '.png': 'image/png',
};

/** The built interface. Addresses of the application's own sections all get its one page. */
export function staticFiles() {
  const root = join(buildFolder(), 'web');
  return async (ctx: Context, next: Next) => {
    if (ctx.method !== 'GET' && ctx.method !== 'HEAD') return next();
    const path = normalize(decodeURI(ctx.path)).replace(/^[/\\]+/, '');
    const type = TYPES[extname(path)];
    const file = type && !path.startsWith('..') ? join(root, path) : join(root, 'index.html');
    const found = await stat(file).catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT' || error.code === 'ENOTDIR') return undefined;
      throw error;
    });
    if (!found?.isFile()) {
      ctx.status = 404;
      ctx.body = 'Not found';
      return;
    }
    ctx.set('Cache-Control', path.startsWith('assets/') ? 'public, max-age=31536000, immutable' : 'no-cache');
    ctx.type = type ?? TYPES['.html']!;
    ctx.length = found.size;
    ctx.body = createReadStream(file);
  };
}
