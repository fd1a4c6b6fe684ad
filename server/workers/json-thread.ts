import { BODIES, type BodyName } from '../../api/bodies.ts';
import { type JsonAnswer, type JsonQuestion, PART, type Part } from './json.ts';
import { answerQuestions } from './thread.ts';

/** Reads large JSON on a thread of its own, and hands it over in parts. */
const kept = new Map<number, Part[]>();
let nextKey = 1;

answerQuestions<JsonQuestion, JsonAnswer>((question) => {
  if ('key' in question) {
    const parts = kept.get(question.key) ?? [];
    const part = parts.shift();
    if (parts.length === 0) kept.delete(question.key);
    return { part };
  }
  let value: unknown;
  try {
    value = JSON.parse(Buffer.concat(question.blocks).toString('utf8'));
  } catch {
    return { invalid: true };
  }
  if (question.body !== undefined) {
    const read = BODIES[question.body as BodyName].safeParse(value);
    if (!read.success) return { issues: read.error.issues.slice(0, 1) };
    value = read.data;
  }
  const parts: Part[] = [];
  const rest = cutArrays(value, [], parts);
  const key = nextKey++;
  if (parts.length > 0) kept.set(key, parts);
  return { value: rest, key, parts: parts.length };
});

/** A value without the contents of its long arrays, which become parts. */
function cutArrays(value: unknown, path: readonly string[], parts: Part[]): unknown {
  if (Array.isArray(value)) {
    if (value.length <= PART) return value as unknown[];
    for (let at = 0; at < value.length; at += PART) parts.push({ path, items: value.slice(at, at + PART) });
    return [];
  }
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).map(([name, one]) => [name, cutArrays(one, [...path, name], parts)]),
  );
}
