import { stemOf } from '../../core/address/path.ts';
import type { ArrivalRow } from '../db/arrivals.ts';

/** The names of an arrival with the ending of what it becomes: nothing, when it stays what it is. */
export function endingOf(row: ArrivalRow, convert: boolean): { name?: string; plainName?: string } {
  const { convertible } = row.facts;
  if (convertible === undefined) return {};
  const ending = convert ? '.jpg' : convertible.replace('image/', '.');
  const ended = (name: string) => `${stemOf(name)}${ending}`;
  return { name: ended(row.name), plainName: row.plainName && ended(row.plainName) };
}
