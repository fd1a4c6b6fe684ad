import type { Site } from '../app/site.ts';

/**
 * The content store keeps a second copy only while something waits for it or could bring it back.
 * @param emptied no absent record could bring it back either
 */
export async function collectBlob(
  site: Pick<Site, 'blobs' | 'db' | 'contents' | 'arrivals' | 'rows'>,
  sha256: string,
  emptied = false,
): Promise<void> {
  const { db, blobs, arrivals, contents, rows } = site;
  const kept = db.get(
    `select 1 from item where (sha256 = @sha256 and state <> 'here' and (state in ('draft', 'aside') or @emptied = 0))
         or (original_sha256 = @sha256 and (state <> 'absent' or @emptied = 0))
         or (edit <> '' and json_extract(edit, '$.original.of') = @sha256 and (state <> 'absent' or @emptied = 0))`,
    { sha256, emptied: Number(emptied) },
  );
  if (!arrivals.needs(sha256) && !kept && !rows.needs(sha256)) await blobs.drop(sha256);
  contents.drop(sha256);
}
