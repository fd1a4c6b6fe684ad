import { trim } from '../../core/text/cut.ts';
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import Koa from 'koa';
import type { Logger } from 'pino';
import { mimeOf } from '../../core/address/kinds.ts';
import { encodePath, joinPath, servedPath, type SitePath } from '../../core/address/path.ts';
import { decodePathname } from '../../core/reference/resolve.ts';
import { Fault } from '../fault.ts';
import { redirectsOf } from '../scan/redirects.ts';
import type { Site } from '../app/site.ts';
import { drawPreview, type Preview } from './preview.ts';

export interface ServedParts {
  site: Site;
  log: Logger;
  appOrigins: readonly string[];
  /** Host names (with port) that it answers to; browsers are led on to the first, which no cookie of the application reaches. */
  hosts: readonly string[];
  preview?: Preview | undefined;
}

/**
 * The site as visitors see it, on an origin of its own, so that its scripts cannot reach the application. Types come
 * from our own table and are never sniffed; drawings and XML may run nothing; kept redirects are followed.
 */
export function createServedSite({ site, log, appOrigins, hosts, preview }: ServedParts): Koa {
  const app = new Koa();
  app.on('error', (error: Error) => log.debug({ error }, 'served site'));
  app.use(async (ctx) => {
    ctx.set({
      'X-Content-Type-Options': 'nosniff',
      'Cache-Control': 'no-cache',
      'Referrer-Policy': 'no-referrer',
    });
    const host = ctx.host.toLowerCase();
    if (!hosts.includes(host)) {
      log.warn({ host, path: ctx.path }, 'refused');
      ctx.status = 403;
      ctx.type = 'text/plain';
      ctx.body = `The site is not served to “${ctx.host}”. Open the address that the server printed at its start.`;
      return;
    }
    if (ctx.method !== 'GET' && ctx.method !== 'HEAD') {
      ctx.status = 405;
      return;
    }
    if (host !== hosts[0] && ctx.get('Sec-Fetch-Mode') === 'navigate') {
      ctx.redirect(`http://${hosts[0]}${ctx.url.replace(/^\/+/, '/')}`);
      return;
    }
    const path = decodePathname(ctx.path.slice(1));
    if (preview && ctx.query['iconomos-preview'] === preview.token)
      return drawPreview(ctx, site, preview, path);
    const file = await fileFor(site, path);
    if (!file) {
      const to = await redirectFor(site, path);
      if (to !== undefined) {
        ctx.status = 301;
        ctx.redirect(to);
        return;
      }
      ctx.status = 404;
      ctx.type = 'text/plain';
      ctx.body = `There is no file for this address: ${ctx.path}`;
      return;
    }
    const served = servedPath(file.path, site.index.map.roots);
    if (file.path !== path && served !== path && !ctx.path.endsWith('/')) {
      ctx.redirect(`/${encodePath(path)}/`);
      return;
    }
    const type = mimeOf(file.path);
    // Pages that are looked at have an origin of no one; their fonts are asked for across it.
    if (type.startsWith('font/')) ctx.set('Access-Control-Allow-Origin', '*');
    ctx.set(
      'Content-Type',
      /^text\/|json|javascript|xml/.test(type) && !type.startsWith('image/') && type !== 'text/html'
        ? `${type}; charset=utf-8`
        : type,
    );
    const frames = `frame-ancestors 'self' ${appOrigins.join(' ')}`;
    ctx.set(
      'Content-Security-Policy',
      /svg|xml/.test(type)
        ? `sandbox; default-src 'none'; style-src 'unsafe-inline'; img-src 'self' data:; ${frames}`
        : frames,
    );
    if (type === 'application/octet-stream') ctx.set('Content-Disposition', 'attachment');
    await sendFile(ctx, file.absolute, file.bytes);
  });
  return app;
}

/** Sends a file, or the one range of it that was asked for (RFC 9110), which players of video and sound need. */
async function sendFile(ctx: Koa.Context, absolute: string, bytes: number): Promise<void> {
  ctx.set('Accept-Ranges', 'bytes');
  const range = /^bytes=(\d*)-(\d*)$/.exec(ctx.get('Range'));
  if (!range || (range[1] === '' && range[2] === '')) {
    ctx.length = bytes;
    ctx.body = createReadStream(absolute);
    return;
  }
  const start = range[1] === '' ? Math.max(0, bytes - Number(range[2])) : Number(range[1]);
  const end = range[1] === '' || range[2] === '' ? bytes - 1 : Math.min(Number(range[2]), bytes - 1);
  if (start > end || start >= bytes) {
    ctx.status = 416;
    ctx.set('Content-Range', `bytes */${bytes}`);
    return;
  }
  ctx.status = 206;
  ctx.set('Content-Range', `bytes ${start}-${end}/${bytes}`);
  ctx.length = end - start + 1;
  ctx.body = createReadStream(absolute, { start, end });
}

/** What a web server runs or keeps to itself: its source, its data and its keys are never handed out. */
const KEPT_BACK =
  /\.(?:php\d*|phtml|phar|phps|inc|cgi|pl|py|rb|sh|asp|aspx|ascx|jsp|jspx|cfm|env|sql|db|sqlite\d?|mdb|ini|conf|pem|key|p12|pfx|htpasswd|log|bak|swp)$/i;

async function fileFor(
  site: Pick<Site, 'folder' | 'index'>,
  path: SitePath,
): Promise<{ path: SitePath; absolute: string; bytes: number } | undefined> {
  const trimmed = trim(path, '/', 'end');
  const names = path.endsWith('/') || path === '' ? [] : [path];
  for (const index of ['index.html', 'index.htm']) names.push(joinPath(trimmed, index));
  // What lies in a public folder is served from the root; the rest of a generator's sources can be looked at too.
  const roots = new Set([...site.index.map.roots, '']);
  for (const candidate of names.flatMap((name) => [...roots].map((root) => joinPath(root, name)))) {
    // Hidden files, ours among them, are never served.
    if (candidate.split('/').some((name) => name.startsWith('.') && name !== '.well-known')) continue;
    if (KEPT_BACK.test(candidate)) continue;
    const absolute = await site.folder.locate(candidate).catch((error: unknown) => {
      if (error instanceof Fault) return undefined;
      throw error;
    });
    if (absolute === undefined) continue;
    const found = await stat(absolute).catch((error: NodeJS.ErrnoException) => {
      if (['ENOENT', 'ENOTDIR', 'ENAMETOOLONG'].includes(error.code ?? '')) return undefined;
      throw error;
    });
    if (found?.isFile()) return { path: candidate, absolute, bytes: found.size };
  }
  return undefined;
}

async function redirectFor(site: Pick<Site, 'folder'>, path: SitePath): Promise<string | undefined> {
  return (await redirectsOf(site)).redirects.find((one) => one.from === `/${encodePath(path)}`)?.to;
}
