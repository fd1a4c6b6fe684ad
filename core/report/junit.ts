import { toXml } from '../office/xml-tags.ts';
import { findingsOf, type Finding, type Reported } from './findings.ts';

/**
 * A report as tests, in the XML that build pipelines take from JUnit: a suite for each rule, in it a test for each finding; a rule that finds
 * nothing is one test that passes.
 * @param failOn rules whose findings fail; those of others are skipped tests, which are told. None: all fail
 */
export function junitOf(report: Reported, failOn: readonly string[] = []): string {
  const { rules, findings } = findingsOf(report);
  const suites = rules.map(({ id, name, why }) => {
    const found = findings.filter(({ rule }) => rule === id);
    const fails = failOn.length === 0 || failOn.includes(id);
    const cases = found.map((finding) => caseOf(finding, fails, why));
    const passed = `  <testcase${attributes({ classname: id, name: `${name}: nothing found` })}/>`;
    return {
      tests: Math.max(1, found.length),
      failures: fails ? found.length : 0,
      skipped: fails ? 0 : found.length,
      name: `${id}: ${name}`,
      xml: cases.length > 0 ? cases : [passed],
    };
  });
  const sum = (of: 'tests' | 'failures' | 'skipped') => suites.reduce((total, suite) => total + suite[of], 0);
  const whole = {
    name: 'Iconomos',
    tests: sum('tests'),
    failures: sum('failures'),
    skipped: sum('skipped'),
    errors: 0,
  };
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<testsuites${attributes(whole)}>`,
    ...suites.flatMap(({ xml, ...suite }) => [
      `<testsuite${attributes({ ...suite, errors: 0 })}>`,
      ...xml,
      '</testsuite>',
    ]),
    '</testsuites>',
    '',
  ].join('\n');
}

function caseOf(
  { rule, path, named, line, says, others = [] }: Finding,
  fails: boolean,
  why: string,
): string {
  const where = path ?? named ?? rule;
  const at = line === undefined ? where : `${where}:${line}`;
  const place = {
    classname: rule,
    name: `${at}: ${says}`,
    ...(path === null ? {} : { file: path }),
    ...(line === undefined ? {} : { line }),
  };
  const told = [says, ...others.map((other) => `See ${other}.`), why].join('\n');
  const result = fails
    ? `<failure${attributes({ type: rule, message: says })}>${toXml(told)}</failure>`
    : `<skipped${attributes({ message: says })}/>`;
  return `  <testcase${attributes(place)}>${result}</testcase>`;
}

const attributes = (all: Readonly<Record<string, string | number>>): string =>
  Object.entries(all)
    .map(
      ([name, value]) =>
        ` ${name}="${toXml(String(value)).replaceAll('"', '&quot;').replaceAll('\n', '&#10;')}"`,
    )
    .join('');
