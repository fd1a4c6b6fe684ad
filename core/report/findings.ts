import type { SitePath } from '../address/path.ts';
import { CHECKS, type Check, type CheckName } from '../upkeep/checks.ts';

/** What a report says that somebody may have to mend (`npm run report`, docs/formats.md). */
export interface Reported {
  unused: readonly SitePath[];
  broken: readonly { page: SitePath; line: number; url: string; unsure?: boolean | undefined }[];
  copies: readonly (readonly SitePath[])[];
  lookalikes: readonly { paths: readonly SitePath[]; relation: string }[];
  alt: { missing: readonly { page: SitePath; line: number; path: SitePath }[] };
  checks?:
    | Partial<
        Record<
          CheckName,
          | readonly {
              path?: SitePath | undefined;
              tag?: string | undefined;
              address?: string | undefined;
              why: string;
            }[]
          | undefined
        >
      >
    | undefined;
}

/** How much a finding weighs: as SARIF 2.1.0 has it (3.27.10). */
export type Level = 'error' | 'warning' | 'note';
export interface Rule {
  /** As `--fail-on` names it. */
  id: string;
  name: string;
  what: string;
  why: string;
  level: Level;
}
export interface Finding {
  rule: string;
  says: string;
  /** Null: it is about no file, but about what is named. */
  path: SitePath | null;
  named?: string;
  /** From 1; of a file as a whole there is none. */
  line?: number;
  /** Other files that it is about. */
  others?: readonly SitePath[];
  /** The same as long as it is the same finding, wherever its line goes. */
  mark: string;
}

const ruleOf = (id: string, { name, what, why, sure }: Check, level?: Level): Rule => ({
  id,
  name,
  what,
  why,
  level: level ?? (sure === 'judgement' ? 'note' : 'warning'),
});
/** Those that a report has by itself. */
const OWN: readonly Rule[] = [
  ruleOf('broken', CHECKS.broken, 'error'),
  {
    id: 'alt',
    name: 'Images without alt text',
    what: 'Images on pages whose alt attribute is missing.',
    why: 'Screen readers read out the file name instead.',
    level: 'warning',
  },
  ruleOf('unused', CHECKS.unused, 'note'),
  ruleOf('copies', CHECKS.copies, 'note'),
  ruleOf('lookalikes', CHECKS['look-alikes'], 'note'),
];
/** Checks that say what a report says by itself. */
const SAID: ReadonlySet<CheckName> = new Set<CheckName>(['broken', 'unused', 'copies', 'look-alikes']);

/** All that a report finds, with the rules that were looked at, found or not. */
export function findingsOf(report: Reported): { rules: Rule[]; findings: Finding[] } {
  const checks = Object.entries(report.checks ?? {}).flatMap(([name, found]) =>
    SAID.has(name as CheckName) || !found ? [] : [[name as CheckName, found] as const],
  );
  const groups = (
    rule: string,
    all: readonly { paths: readonly SitePath[]; says: (first: string) => string }[],
  ) =>
    all.flatMap(({ paths: [first, ...rest], says }): Finding[] =>
      rest.map((path) => ({ rule, path, says: says(first!), others: [first!], mark: `${first} ${path}` })),
    );
  const findings: Finding[] = [
    ...report.broken.map(({ page, line, url, unsure }) => ({
      rule: 'broken',
      path: page,
      line,
      says: `“${url}” leads to no file of the site${unsure ? ', unless a generator reads the page otherwise' : ''}.`,
      mark: `${page} ${url}`,
    })),
    ...report.alt.missing.map(({ page, line, path }) => ({
      rule: 'alt',
      path: page,
      line,
      says: `The image “${path}” has no alt attribute here.`,
      others: [path],
      mark: `${page} ${path}`,
    })),
    ...report.unused.map((path) => ({ rule: 'unused', path, says: 'No page uses this file.', mark: path })),
    ...groups(
      'copies',
      report.copies.map((paths) => ({
        paths,
        says: (first: string) => `It has the same content as “${first}”.`,
      })),
    ),
    ...groups(
      'lookalikes',
      report.lookalikes.map(({ paths, relation }) => ({
        paths,
        says: (first: string) => `It looks like “${first}” (${relation}).`,
      })),
    ),
    ...checks.flatMap(([rule, found]) =>
      found.map(({ path, tag, address, why }): Finding => {
        const named = tag ?? address;
        return {
          rule,
          path: path ?? null,
          says: why,
          mark: path ?? named ?? why,
          ...(named === undefined ? {} : { named }),
        };
      }),
    ),
  ];
  // The same address twice on one page is two findings.
  const times = new Map<string, number>();
  for (const finding of findings) {
    const key = `${finding.rule} ${finding.mark}`;
    const before = times.get(key) ?? 0;
    times.set(key, before + 1);
    if (before > 0) finding.mark += ` ${before + 1}`;
  }
  return { rules: [...OWN, ...checks.map(([name]) => ruleOf(name, CHECKS[name]))], findings };
}
