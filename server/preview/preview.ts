import { randomBytes } from 'node:crypto';
import type Koa from 'koa';
import type { SitePath } from '../../core/address/path.ts';
import { encodePath, joinPath, servedPath } from '../../core/address/path.ts';
import { isHtmlPage, isMarkdownPage } from '../../core/reference/page-edit.ts';
import { kindOf } from '../../core/address/kinds.ts';
import type { FileStep } from '../../core/plan/plan.ts';
import type { Proposal, Proposals } from '../changes/proposal.ts';
import { backgroundsOf, PREVIEW_LIMIT } from './backgrounds.ts';
import { inTime } from '../workers/pool.ts';
import type { Site } from '../app/site.ts';
import { PREVIEW_SCRIPT } from './preview-script.ts';

/** What the served site needs to show pages with marks to the application, and to it alone. */
export interface Preview {
  /** Known to the application only: visitors never get a page with marks. */
  token: string;
  proposals: Proposals;
}

export function newPreview(proposals: Proposals): Preview {
  return { token: randomBytes(16).toString('hex'), proposals };
}

/** Where the application sees a page with its marks; null: it cannot be drawn. */
export function previewAddress(
  site: Pick<Site, 'index'>,
  servedAt: string | undefined,
  preview: Preview | undefined,
  page: SitePath,
): string | null {
  const { reading } = site.index.factsOf(page) ?? {};
  if (!preview || !reading || reading.unread || !(isHtmlPage(page) || isMarkdownPage(page))) return null;
  return `${servedAt}/${encodePath(site.index.map.served(page))}?iconomos-preview=${preview.token}&page=${encodeURIComponent(page)}`;
}

/**
 * A page as it is served, with marks and the one script that draws its placements; the page's own scripts do not run. With
 * `plan`, as it would be once that plan is applied: new images come from the plan too.
 */
export async function drawPreview(
  ctx: Koa.Context,
  site: Pick<Site, 'folder' | 'planBytes' | 'index' | 'pool'>,
  { proposals }: Preview,
  path: SitePath,
): Promise<void> {
  const page = String(ctx.query['page'] ?? '');
  const plan = String(ctx.query['plan'] ?? '');
  const planned = await plannedFiles(site, proposals.at(plan));
  ctx.set({
    'Referrer-Policy': 'no-referrer',
    'Cache-Control': 'no-store',
    'X-Content-Type-Options': 'nosniff',
  });
  if (page === '' && (await drawSheet(ctx, site, path, planned))) return;
  const known = site.index.factsOf(page);
  if (!known?.reading || servedPath(page, site.index.map.roots) !== path) {
    ctx.status = 404;
    ctx.type = 'text/plain';
    ctx.body = 'There is no such page.';
    return;
  }
  const drawn = await inTime(async () => {
    const file = await site.folder.locate(page);
    const html = await site.pool.run(
      'marks',
      { file, path: page, bytes: planned.get(page) },
      { limit: PREVIEW_LIMIT },
    );
    return { html, backgrounds: await backgroundsOf(site, page, planned) };
  });
  if (!drawn) {
    ctx.status = 503;
    ctx.type = 'text/plain';
    ctx.body = 'This page, or one of its style sheets, takes too long to be drawn.';
    return;
  }
  const { html } = drawn;
  if (html === null) {
    ctx.status = 415;
    ctx.type = 'text/plain';
    ctx.body = 'Nothing of this file can be drawn.';
    return;
  }
  const nonce = randomBytes(12).toString('base64');
  // Whoever prepares a page need not be seen by others for it: their servers are asked for nothing unless a person wants it.
  const from = ctx.query['others'] === '1' ? 'http: https:' : `http://${ctx.host}`;
  ctx.set(
    'Content-Security-Policy',
    [
      "default-src 'none'",
      `script-src 'nonce-${nonce}'`,
      `img-src ${from} data:`,
      `media-src ${from} data:`,
      `font-src ${from} data:`,
      `style-src ${from} 'unsafe-inline'`,
      "base-uri 'self'",
      "form-action 'none'",
      'sandbox allow-scripts',
    ].join('; '),
  );
  ctx.type = 'text/html; charset=utf-8';
  const sheetsChange = [...planned.keys()].some((one) => /\.css$/i.test(one));
  // New images of a plan are not on the disk yet: the script puts them where they are asked for.
  const pictures = Object.fromEntries(
    [...planned]
      .filter(([one]) => one !== page && !/\.css$/i.test(one))
      .map(([one, bytes]) => [
        `/${servedPath(one, site.index.map.roots)}`,
        Buffer.from(bytes).toString('base64'),
      ]),
  );
  const data = JSON.stringify(pictures).replaceAll('<', '\\u003c');
  const backgrounds = drawn.backgrounds.map(({ at, served, selectors }) => ({
    at,
    served: `/${served}`,
    selectors,
  }));
  const sheets = JSON.stringify(backgrounds).replaceAll('<', '\\u003c');
  ctx.body = `${html}<script nonce="${nonce}">(${PREVIEW_SCRIPT})(${data}, ${sheets}, ${sheetsChange})</script>`;
}

/** Bytes of a plan's new files that are drawn with it at most: a page shows few of those of a plan for thousands. */
const MOST_DRAWN = 50e6;

/** What a plan would write, by path: pages and style sheets first, then as many images as are drawn with it. */
async function plannedFiles(
  { planBytes }: Pick<Site, 'planBytes'>,
  proposal: Proposal | undefined,
): Promise<Map<SitePath, Uint8Array>> {
  const planned = new Map<SitePath, Uint8Array>();
  let drawn = 0;
  const steps = proposal?.plan.files ?? [];
  for (const step of [...steps].sort((a, b) => Number(isPicture(a)) - Number(isPicture(b)))) {
    const sha256 = step.do === 'write' ? step.after : step.do === 'create' ? step.sha256 : null;
    if (sha256 === null || (step.do !== 'write' && step.do !== 'create')) continue;
    drawn += planBytes.sizeOf(sha256) ?? 0;
    if (drawn > MOST_DRAWN) break;
    const bytes = await planBytes.read(sha256);
    if (bytes) planned.set(step.path, bytes);
  }
  return planned;
}
const isPicture = (step: FileStep) => 'path' in step && kindOf(step.path) === 'image';

/** A style sheet as a plan would leave it; the sheets that it brings in are asked for in the same way. */
async function drawSheet(
  ctx: Koa.Context,
  site: Pick<Site, 'folder' | 'index' | 'pool'>,
  path: SitePath,
  planned: ReadonlyMap<SitePath, Uint8Array>,
): Promise<boolean> {
  const roots = [...site.index.map.roots, ''];
  const sheet = roots.map((root) => joinPath(root, path)).find((one) => site.index.factsOf(one)?.reading);
  if (sheet === undefined || !/\.css$/i.test(sheet)) return false;
  const changed = planned.get(sheet);
  const file = await site.folder.locate(sheet);
  let text = Buffer.from(changed ?? (await site.folder.read(sheet))).toString('latin1');
  const references = changed
    ? await inTime(() =>
        site.pool.run('sheet', { file, path: sheet, bytes: changed }, { limit: PREVIEW_LIMIT }),
      )
    : site.index.factsOf(sheet)?.reading;
  for (const one of references?.references.toReversed() ?? [])
    if (one.place === 'css @import' && site.index.map.follow(one, sheet).to === 'file')
      text = `${text.slice(0, one.end)}${one.url.includes('?') ? '&' : '?'}${ctx.querystring}${text.slice(one.end)}`;
  ctx.type = 'text/css; charset=utf-8';
  ctx.body = Buffer.from(text, 'latin1');
  return true;
}
