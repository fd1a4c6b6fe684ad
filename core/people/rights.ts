/** What a person may be allowed to do. Each route of the server and each kind of plan names the one that it needs. */
export const RIGHTS = {
  'sign-in': 'Sign in',
  look: 'See the library, its pages and its ledger',
  download: 'Download files, tables and exports',
  'bring-in': 'Bring in files',
  drafts: 'See and change drafts',
  publish: 'Put drafts on the site',
  describe: 'Write alt text and other metadata, and tag',
  organise: 'Rename, move and copy items and folders',
  place: 'Use items on pages',
  write: 'Edit the text of documents and pages',
  clean: 'Set aside, merge and optimise items',
  maintain: 'Scan the site and settle changes that stopped half way',
  settings: 'Set rules, patterns, fields and the layout of the site',
  archive: 'Archive the whole library with its ledger',
  people: 'Invite people, set their roles and read the access log',
  empty: 'Delete for good',
} as const;
export type Right = keyof typeof RIGHTS;

/** From those who may least to the one who answers for all. */
export const ROLES = ['reader', 'contributor', 'editor', 'steward'] as const;
export type Role = (typeof ROLES)[number];

/** What each role is for, as it is offered. */
export const ROLE_TEXTS: Record<Role, string> = {
  reader: 'looks and downloads',
  contributor: 'brings in drafts and describes items',
  editor: 'publishes, describes, moves, places and cleans up',
  steward: 'does everything, sets rules and invites people',
};

/** How far somebody may go with something: do it, do it with what is their own, propose it, or none of these. */
export type Grant = 'yes' | 'own' | 'approval' | 'no';
type Grants = { readonly [Name in Right]: Grant };

const NOTHING = Object.fromEntries(Object.keys(RIGHTS).map((right) => [right, 'no'])) as Grants;
const READER: Grants = { ...NOTHING, 'sign-in': 'yes', look: 'yes', download: 'yes' };
const CONTRIBUTOR: Grants = {
  ...READER,
  'bring-in': 'yes',
  drafts: 'own',
  describe: 'yes',
  publish: 'approval',
  organise: 'approval',
  place: 'approval',
  write: 'approval',
  clean: 'approval',
};
const EDITOR: Grants = {
  ...CONTRIBUTOR,
  drafts: 'yes',
  publish: 'yes',
  organise: 'yes',
  place: 'yes',
  write: 'yes',
  clean: 'yes',
  maintain: 'yes',
};
/** The one table of rights. A person's can be narrowed to folders besides (see reach.ts). */
const TABLE: Record<Role, Grants> = {
  reader: READER,
  contributor: CONTRIBUTOR,
  editor: EDITOR,
  steward: { ...EDITOR, settings: 'yes', archive: 'yes', people: 'yes', empty: 'yes' },
};

export const isRole = (role: string): role is Role => (ROLES as readonly string[]).includes(role);

/** How far somebody of this role may go; of an unknown one, nowhere. */
export const grantOf = (role: string, right: Right): Grant => (isRole(role) ? TABLE[role][right] : 'no');

const rightsWith = (role: string, grant: Grant): readonly Right[] =>
  (Object.keys(RIGHTS) as Right[]).filter((right) => grantOf(role, right) === grant);

/** What somebody of this role may do. */
export const rightsOf = (role: string): readonly Right[] => rightsWith(role, 'yes');

/** Whether somebody of this role may do that. */
export const may = (role: string, right: Right): boolean => grantOf(role, right) === 'yes';

/** What somebody of this role may propose. */
export const asksOf = (role: string): readonly Right[] => rightsWith(role, 'approval');

/** Whether somebody may see and change a draft: their own, or any. */
export function mayDraft(role: string, own: boolean): boolean {
  const grant = grantOf(role, 'drafts');
  return grant === 'yes' || (own && grant === 'own');
}

/** Whether folders can bind what somebody of this role may do: who only looks, or answers for all, does so everywhere. */
export const narrows = (role: string): boolean => role === 'contributor' || role === 'editor';

/** Roles that a program may come in with, of somebody of this role: it never invites people nor deletes for good. */
export const tokenRoles = (role: string): readonly Role[] =>
  ROLES.slice(0, isRole(role) ? Math.min(ROLES.indexOf(role), ROLES.indexOf('editor')) + 1 : 0);

/** Of two roles the one that may less. */
export const lesserRole = (one: string, other: string): string =>
  rightsOf(one).length <= rightsOf(other).length ? one : other;

/** 'a reader', 'an editor'. */
export const aRole = (role: string): string => `${/^[aeiou]/.test(role) ? 'an' : 'a'} ${role}`;

/** Who may do it, as the end of a sentence: 'an editor or a steward'. */
export function whoMay(right: Right): string {
  const roles = ROLES.filter((role) => may(role, right)).map(aRole);
  return roles.length < 2 ? (roles[0] ?? 'nobody') : `${roles.slice(0, -1).join(', ')} or ${roles.at(-1)!}`;
}
