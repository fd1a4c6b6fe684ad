import type { VersionView } from '../../../api/items.ts';
import type { RecordValues } from '../../../core/plan/plan.ts';
import { RECORD_NAMES, REVIEW_NAMES } from '../../../core/plan/words.ts';
import type { versionsOf } from '../../changes/versions.ts';
import type { Site } from '../../app/site.ts';

/** One change of an item, in words. */
export function versionView(
  site: Pick<Site, 'blobs'>,
  { before, after, file, ...version }: Awaited<ReturnType<typeof versionsOf>>[number],
): VersionView {
  return {
    ...version,
    fields: (Object.keys(after) as (keyof typeof RECORD_NAMES)[]).map((field) => ({
      field: RECORD_NAMES[field],
      before: shownValue(before[field]),
      after: shownValue(after[field]),
    })),
    file: file && { ...file, kept: site.blobs.has(file.before) },
  };
}

/** A value of a record as it is shown. */
export function shownValue(value: RecordValues[keyof RecordValues] | undefined): string {
  if (Array.isArray(value)) return value.join(', ');
  if (typeof value === 'object' && value !== null)
    return Object.entries(value)
      .map(([field, text]) => `${field}: ${text}`)
      .join('; ');
  if (value === 'in-review' || value === 'to-update') return REVIEW_NAMES[value];
  return typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value ?? '');
}
