import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { DETAIL_SIDE, lookOf } from '../core/tagging/computed.ts';
import { voteOn, type Example } from '../core/tagging/vote.ts';
import { catalogue } from '../demo/catalogue.ts';
import { renderAll, SEED } from '../demo/make.ts';

/** Tags that say what is to be seen; others (an event, the press) are no matter of looking. */
const SUBJECTS = new Set(
  'dome,Moon,galaxy,nebula,cluster,deep sky,star trails,shop,print,pin,star wheel,mars,saturn,jupiter,sun'.split(
    ',',
  ),
);
/** Pixels at which skies are painted before they are enlarged. */
const EDGE = 240;
const THRESHOLDS = [0.5, 0.6, 0.8];

/**
 * Tags suggested for each image by all others (leave one out), on the demo and on a site of another seed, on which nothing was tuned; the
 * bare baseline is to suggest the commonest tag for all.
 */
export async function benchTagging(say: (text: string) => void): Promise<void> {
  for (const seed of [SEED, 'another hill']) {
    const examples = await examplesOf(seed);
    const tagged = examples.reduce((sum, { labels }) => sum + labels.length, 0);
    const counts = new Map<string, number>();
    for (const { labels } of examples)
      for (const label of labels) counts.set(label, (counts.get(label) ?? 0) + 1);
    const commonest = Math.max(...counts.values());
    say(
      `Suggested tags, ${examples.length} images of “${seed}” with ${tagged} tags of subject, each by the others (the commonest tag for all: precision ${(commonest / examples.length).toFixed(2)}, recall ${(commonest / tagged).toFixed(2)}):`,
    );
    const start = performance.now();
    const voted = examples.map((one) =>
      voteOn(
        one.features,
        examples.filter((other) => !sameImage(one, other)),
      ),
    );
    const took = (performance.now() - start) / examples.length;
    for (const threshold of THRESHOLDS) {
      let [right, offered] = [0, 0];
      for (const [at, votes] of voted.entries())
        for (const { label, confidence } of votes) {
          if (confidence < threshold) continue;
          offered++;
          if (examples[at]!.labels.includes(label)) right++;
        }
      say(
        `  at ${threshold}: precision ${(right / offered).toFixed(2)}${threshold === 0.6 ? ' (aim 0.90)' : ''}, recall ${(right / tagged).toFixed(2)}, ${offered} offered`,
      );
    }
    say(`  a vote of ${examples.length} takes ${took.toFixed(2)} ms`);
  }
}

/** An image and its sizes, or its copies in another format. */
const sameImage = (one: Example<string>, other: Example<string>) => plain(one.key) === plain(other.key);
const plain = (path: string) => path.replace(/(?:-\d+)?\.\w+$/, '');

async function examplesOf(seed: string): Promise<Example<string>[]> {
  const folder = mkdtempSync(join(tmpdir(), 'iconomos-bench-'));
  try {
    const items = catalogue(seed).filter(
      ({ path, recipe, tags }) =>
        recipe.make !== 'copy' &&
        /\.(?:jpe?g|png|webp)$/i.test(path) &&
        tags?.some((tag) => SUBJECTS.has(tag)),
    );
    await renderAll(items, folder, EDGE, () => undefined);
    const examples: Example<string>[] = [];
    for (const { path, tags } of items) {
      const image = sharp(join(folder, path)).autoOrient();
      const { width, height } = await image.metadata();
      const rgb = await image
        .flatten({ background: '#ffffff' })
        .resize(DETAIL_SIDE, DETAIL_SIDE, { fit: 'fill' })
        .toColorspace('srgb')
        .removeAlpha()
        .raw()
        .toBuffer();
      const labels = tags!.filter((tag) => SUBJECTS.has(tag));
      examples.push({ key: path, features: lookOf(rgb, width / height).features, labels });
    }
    return examples;
  } finally {
    rmSync(folder, { recursive: true });
  }
}
