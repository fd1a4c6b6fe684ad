import { expect, test } from 'vitest';
import { childrenOf, readXml } from '../office/package.ts';
import { findingsOf, type Reported } from './findings.ts';
import { junitOf } from './junit.ts';
import { sarifOf } from './sarif.ts';

const NOTHING: Reported = { unused: [], broken: [], copies: [], lookalikes: [], alt: { missing: [] } };
const REPORT: Reported = {
  unused: ['img/old <1>.png'],
  broken: [
    { page: 'a & b.html', line: 3, url: '../img/"none".png' },
    { page: 'c.md', line: 1, url: 'x.png', unsure: true },
  ],
  copies: [['img/b.png', 'old/b.png', 'old/c.png']],
  lookalikes: [{ paths: ['img/d.jpg', 'img/d-small.jpg'], relation: 'resized' }],
  alt: { missing: [{ page: 'c.md', line: 9, path: 'img/b.png' }] },
  checks: {
    unused: [{ path: 'img/old <1>.png', why: 'said above' }],
    'lone-tags': [{ tag: 'moon', why: 'Only one item has it.' }],
    private: [{ path: 'img/b.png', why: 'It contains 54.1, −2.3.' }],
    names: [],
  },
};
interface Sarif {
  runs: {
    tool: { driver: { rules: { id: string }[] } };
    invocations: { toolExecutionNotifications: unknown[] }[];
    results: {
      ruleId: string;
      ruleIndex: number;
      level: string;
      message: { text: string };
      locations?: object[];
    }[];
  }[];
}

test('each finding stands once, at its file and line; a group is told at those that are more than one', () => {
  const { rules, findings } = findingsOf(REPORT);
  expect(rules.map(({ id }) => id)).toEqual([
    'broken',
    'alt',
    'unused',
    'copies',
    'lookalikes',
    'lone-tags',
    'private',
    'names',
  ]);
  expect(findings.map(({ rule, path, line }) => [rule, path, line])).toEqual([
    ['broken', 'a & b.html', 3],
    ['broken', 'c.md', 1],
    ['alt', 'c.md', 9],
    ['unused', 'img/old <1>.png', undefined],
    ['copies', 'old/b.png', undefined],
    ['copies', 'old/c.png', undefined],
    ['lookalikes', 'img/d-small.jpg', undefined],
    ['lone-tags', null, undefined],
    ['private', 'img/b.png', undefined],
  ]);
  expect(new Set(findings.map(({ rule, mark }) => `${rule} ${mark}`)).size).toBe(findings.length);
});

test('SARIF: addresses relative to the sources, rules by number, errors for what fails the build', () => {
  const unreadable = [{ path: 'img/cut.png', why: 'It ends too early.' }];
  const [run] = (sarifOf(REPORT, { version: '1.2.3', failOn: ['unused'], unreadable }) as Sarif).runs;
  expect(run!.results).toHaveLength(9);
  for (const { ruleId, ruleIndex } of run!.results)
    expect(run!.tool.driver.rules[ruleIndex]!.id).toBe(ruleId);
  expect(run!.results[0]).toMatchObject({
    level: 'error',
    locations: [
      {
        physicalLocation: {
          artifactLocation: { uri: 'a%20%26%20b.html', uriBaseId: '%SRCROOT%' },
          region: { startLine: 3 },
        },
      },
    ],
  });
  const levels = Object.fromEntries(run!.results.map(({ ruleId, level }) => [ruleId, level]));
  expect(levels).toMatchObject({ unused: 'error', alt: 'warning', copies: 'note' });
  expect(run!.results.find(({ ruleId }) => ruleId === 'lone-tags')!.locations).toEqual([
    { logicalLocations: [{ fullyQualifiedName: 'moon' }] },
  ]);
  expect(run!.invocations[0]!.toolExecutionNotifications).toHaveLength(1);
});

/** The suites of a text, each with its tests. */
function read(xml: string) {
  const [whole] = childrenOf(readXml(xml)!, 'testsuites');
  const suites = childrenOf(whole!, 'testsuite').map((suite) =>
    childrenOf(suite, 'testcase').map((one) => ({
      ...one.attributes,
      result: childrenOf(one)[0]?.name ?? 'passed',
    })),
  );
  const { tests, failures, skipped } = whole!.attributes;
  return { counts: [tests, failures, skipped].map(Number), suites };
}

test('JUnit: a suite a rule, a failing test a finding; what is not to fail is skipped; nothing found passes', () => {
  const all = read(junitOf(REPORT));
  expect(all.counts).toEqual([10, 9, 0]);
  expect(all.suites[0]![0]).toMatchObject({
    name: 'a & b.html:3: “../img/"none".png” leads to no file of the site.',
    file: 'a & b.html',
    result: 'failure',
  });
  const some = read(junitOf(REPORT, ['broken']));
  expect(some.counts).toEqual([10, 2, 7]);
  expect(some.suites[1]![0]!.result).toBe('skipped');
  const none = read(junitOf(NOTHING));
  expect([none.counts, none.suites.flat().map(({ result }) => result)]).toEqual([
    [5, 0, 0],
    Array(5).fill('passed'),
  ]);
});
