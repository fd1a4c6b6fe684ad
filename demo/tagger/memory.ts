import { createReadStream, existsSync } from 'node:fs';
import { appendFile, mkdir, rename, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { createInterface } from 'node:readline';
import { z } from 'zod';
import type { Computed } from '../../core/tagging/computed.ts';
import { FEATURE_GROUPS, type Features } from '../../core/tagging/features.ts';

/** All that is kept of an image: not the image. */
export interface Known {
  features: Features;
  computed: Computed[];
  /** What people have tagged it with; none: it is no example. */
  labels: string[];
}

const Numbers = z.array(z.number());
const Line = z.object({
  key: z.string(),
  /** Missing: only its labels are others now. */
  seen: z
    .object({
      features: z.object({
        hues: Numbers,
        layout: Numbers,
        edges: Numbers,
        texture: Numbers,
        whole: Numbers,
        likeness: Numbers,
      }),
      computed: z.array(z.object({ label: z.string(), confidence: z.number(), reason: z.string() })),
    })
    .optional(),
  labels: z.array(z.string()).optional(),
});
type Line = z.infer<typeof Line>;

/** What the tagging service knows of images: each news is a line (JSON) at the end of a file, so that thousands cost no more than one. */
export class Memory {
  private readonly images = new Map<string, Known>();
  private news: string[] = [];
  private saving: Promise<void> | undefined;
  private opened: Promise<void> | undefined;

  /** @param failed told why it can't be saved */
  constructor(
    private readonly file: string,
    private readonly failed: (error: Error) => void,
  ) {}

  get known(): ReadonlyMap<string, Known> {
    return this.images;
  }

  /** Reads what was kept, once. */
  open(): Promise<void> {
    return (this.opened ??= this.read());
  }

  keep(key: string, { features, computed }: Pick<Known, 'features' | 'computed'>): void {
    this.images.set(key, { features, computed, labels: this.images.get(key)?.labels ?? [] });
    this.write({ key, seen: { features: plain(features), computed } });
  }

  /** @returns false: there is no such image */
  label(key: string, labels: string[]): boolean {
    const there = this.images.get(key);
    if (!there) return false;
    there.labels = labels;
    this.write({ key, labels });
    return true;
  }

  private async read(): Promise<void> {
    if (!existsSync(this.file)) return;
    let lines = 0;
    for await (const text of createInterface({ input: createReadStream(this.file), crlfDelay: Infinity })) {
      const line = lineOf(text);
      // Half a line that it was stopped in, or of another version: it is asked to look at that image again.
      if (!line) continue;
      lines++;
      const { key, seen, labels } = line;
      const there = this.images.get(key);
      if (seen)
        this.images.set(key, {
          features: Object.fromEntries(
            FEATURE_GROUPS.map((group) => [group, Float32Array.from(seen.features[group])]),
          ) as unknown as Features,
          computed: seen.computed,
          labels: there?.labels ?? [],
        });
      const now = this.images.get(key);
      if (labels && now) now.labels = labels;
    }
    if (lines > 2 * this.images.size) await this.tidy();
  }

  /** Without what has been said anew since. */
  private async tidy(): Promise<void> {
    const lines = [...this.images].map(([key, { features, computed, labels }]) =>
      JSON.stringify({ key, seen: { features: plain(features), computed }, labels } satisfies Line),
    );
    await writeFile(`${this.file}.new`, `${lines.join('\n')}\n`);
    await rename(`${this.file}.new`, this.file);
  }

  private write(line: Line): void {
    this.news.push(JSON.stringify(line));
    this.saving ??= this.save()
      .catch(this.failed)
      .finally(() => (this.saving = undefined));
  }

  private async save(): Promise<void> {
    await mkdir(dirname(this.file), { recursive: true });
    while (this.news.length > 0) {
      const lines = this.news.splice(0);
      // Begins with the end of a line, in case the one before is half.
      await appendFile(this.file, `\n${lines.join('\n')}\n`);
    }
  }
}

function lineOf(text: string): Line | undefined {
  let said: unknown;
  try {
    said = JSON.parse(text);
  } catch {
    return undefined;
  }
  return Line.safeParse(said).data;
}

const plain = (features: Features) =>
  Object.fromEntries(
    FEATURE_GROUPS.map((group) => [
      group,
      [...features[group]].map((value) => Math.round(value * 1e4) / 1e4),
    ]),
  ) as NonNullable<Line['seen']>['features'];
