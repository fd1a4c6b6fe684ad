import type { Site } from './site.ts';

/** The content store keeps a second copy only while something waits for it or could bring it back. */
export async function dropIdle(site: Site, sha256: string): Promise<void> {
  const { db, blobs, arrivals, contents } = site;
  const kept = db
    .prepare("select 1 from item where (sha256 = @sha256 and state <> 'here') or original_sha256 = @sha256")
    .get({ sha256 });
  const image = db
    .prepare(
      `select 1 from ledger_plan where plan like '%"before":"' || @sha256 || '"%' or plan like '%"after":"' || @sha256 || '"%' limit 1`,
    )
    .get({ sha256 });
  if (!arrivals.needs(sha256) && !kept && !image) await blobs.drop(sha256);
  contents.drop(sha256);
}
