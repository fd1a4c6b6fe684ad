import { encodePath, type SitePath } from '../address/path.ts';
import { findingsOf, type Finding, type Reported } from './findings.ts';

/**
 * A report as build pipelines take it: SARIF 2.1.0 (OASIS). Files are told relative to the site, which is the root of the sources.
 * @param failOn rules whose findings are errors
 * @param unreadable files that could not be read
 */
export function sarifOf(
  report: Reported,
  {
    version,
    failOn = [],
    unreadable = [],
  }: { version: string; failOn?: readonly string[]; unreadable?: readonly { path: SitePath; why: string }[] },
): object {
  const { rules, findings } = findingsOf(report);
  const at = new Map(rules.map(({ id }, index) => [id, index]));
  const level = (rule: string) => (failOn.includes(rule) ? 'error' : rules[at.get(rule)!]!.level);
  return {
    $schema: 'https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json',
    version: '2.1.0',
    runs: [
      {
        tool: {
          driver: {
            name: 'Iconomos',
            version,
            semanticVersion: version,
            rules: rules.map(({ id, name, what, why }) => ({
              id,
              shortDescription: { text: name },
              fullDescription: { text: `${what} ${why}` },
              defaultConfiguration: { level: level(id) },
            })),
          },
        },
        columnKind: 'utf16CodeUnits',
        invocations: [
          {
            executionSuccessful: true,
            toolExecutionNotifications: unreadable.map(({ path, why }) => ({
              level: 'warning',
              message: { text: why },
              locations: [placeOf(path)],
            })),
          },
        ],
        results: findings.map((finding) => ({
          ruleId: finding.rule,
          ruleIndex: at.get(finding.rule),
          level: level(finding.rule),
          message: { text: finding.says },
          ...locationsOf(finding),
          partialFingerprints: { 'finding/v1': `${finding.rule} ${finding.mark}` },
        })),
      },
    ],
  };
}

function locationsOf({ path, line, named, others = [] }: Finding): object {
  if (path === null)
    return named === undefined ? {} : { locations: [{ logicalLocations: [{ fullyQualifiedName: named }] }] };
  return {
    locations: [placeOf(path, line)],
    ...(others.length > 0 ? { relatedLocations: others.map((other) => placeOf(other)) } : {}),
  };
}

const placeOf = (path: SitePath, line?: number) => ({
  physicalLocation: {
    artifactLocation: { uri: encodePath(path), uriBaseId: '%SRCROOT%' },
    ...(line === undefined ? {} : { region: { startLine: line } }),
  },
});
