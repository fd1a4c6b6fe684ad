import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { newLog, toldOf } from './log.ts';

const TEXT = 'Ottilie’s greenhouse,\n    at dusk (secret.ts:1:2)';
const thrown = (work: () => unknown): unknown => {
  try {
    work();
  } catch (error) {
    return error;
  }
  throw new Error('nothing was thrown');
};

describe('an error in the log', () => {
  test('is told without what it quotes: a parser quotes what it reads', () => {
    const error = thrown(() => JSON.parse(`{"alt": ${TEXT}}`)) as Error;
    expect(error.message).toContain('Ottilie');
    const told = toldOf(error);
    expect(told).toMatch(/^SyntaxError: .*“…”/);
    expect(told).toContain('log.test.ts');
    for (const part of ['Ottilie', 'greenhouse', 'dusk', 'secret']) expect(told).not.toContain(part);
  });

  test('keeps what the system says of a file, and the rest of its own sentence', () => {
    expect(toldOf(thrown(() => readFileSync('/nowhere/a.png')))).toContain("open '/nowhere/a.png'");
    expect(toldOf(new Error('the “a.png” can’t be read: too small'))).toMatch(
      /^Error: the “…”t be read: too small\n/,
    );
    expect(toldOf(TEXT)).not.toContain('Ottilie');
  });

  test('is told so in every line', () => {
    const lines: string[] = [];
    const log = newLog('info', { write: (line) => void lines.push(line) });
    log.error({ error: thrown(() => JSON.parse(TEXT)) }, 'it failed');
    expect(JSON.parse(lines[0]!)).toMatchObject({ msg: 'it failed', error: expect.stringContaining('“…”') });
    expect(lines.join('')).not.toContain('greenhouse');
  });
});
