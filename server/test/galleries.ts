import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { expect } from 'vitest';
import type { Site } from '../app/site.ts';
import { siteFolder, treeOf } from './site.ts';
import { applyProposal } from '../changes/apply.ts';
import type { Proposal } from '../changes/proposal.ts';
import { proposeUndo } from '../changes/undo.ts';

export const paint = (width: number, height: number, red: number, format: 'jpeg' | 'png' = 'jpeg') =>
  sharp({ create: { width, height, channels: 3, background: { r: red, g: 90, b: 60 } } })
    .toFormat(format)
    .toBuffer();

export async function gallerySite(): Promise<string> {
  return siteFolder({
    'index.html':
      '<!doctype html>\n<title>Home</title>\n<main>\n  <p>One.</p>\n  <img src="img/wide.jpg" width="2000" height="1000" alt="w">\n  <div style="background: url(img/a.jpg)">x</div>\n</main>\n',
    'sub/other.html':
      '<title>Other</title><img src="../img/wide.jpg" width=1000 height=500><a href="/img/wide.jpg?x#y">w</a>',
    'broken.html':
      '<title>Broken</title><img src="img/WIDE.jpg"><img src="img/a.png"><img src="old/b.jpg"><img src="img/nothing.jpg">',
    'notes/n.md': '# Note\n\nText.\n',
    'img/wide.jpg': await paint(2000, 1000, 10),
    'img/a.jpg': await paint(400, 300, 20),
    'img/b.jpg': await paint(900, 600, 30),
    'img/c.png': await paint(800, 1200, 40, 'png'),
  });
}

/** Applies, looks, and takes it back: the site must be as it was to the byte. */
export async function there(
  site: Site,
  root: string,
  proposal: Proposal,
  look: () => Promise<void>,
): Promise<void> {
  const before = await treeOf(root);
  const entry = await applyProposal(site, proposal, 1);
  await look();
  await applyProposal(site, await proposeUndo(site, entry), 1);
  expect(await treeOf(root)).toEqual(before);
}

export const text = (root: string, path: string) => readFile(join(root, path), 'utf8');

export const idOf = (site: Site, path: string) => site.items.atPath(path)!.id;
