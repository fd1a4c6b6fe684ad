/** What a person may be allowed to do. Each route of the server and each kind of plan names the one that it needs. */
export const RIGHTS = {
  look: 'See the library, its pages and its ledger',
  download: 'Download files, tables and exports',
  'bring-in': 'Bring in files',
  describe: 'Write alt text and other metadata, and tag',
  organise: 'Rename, move and copy items and folders',
  place: 'Use items on pages',
  clean: 'Set aside, merge and optimise items',
  settings: 'Set rules, patterns, fields and the layout of the site',
  maintain: 'Scan the site and settle changes that stopped half way',
  empty: 'Delete for good',
} as const;
export type Right = keyof typeof RIGHTS;

/** Whether somebody of this role may do that. Everybody may do everything so far. */
export function may(_role: string, right: Right): boolean {
  return right in RIGHTS;
}
