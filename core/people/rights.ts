/** What a person may be allowed to do. Each route of the server and each kind of plan names the one that it needs. */
export const RIGHTS = {
  'sign-in': 'Sign in',
  look: 'See the library, its pages and its ledger',
  download: 'Download files, tables and exports',
  'bring-in': 'Bring in files',
  publish: 'Put drafts on the site, and see those of others',
  describe: 'Write alt text and other metadata, and tag',
  organise: 'Rename, move and copy items and folders',
  place: 'Use items on pages',
  clean: 'Set aside, merge and optimise items',
  maintain: 'Scan the site and settle changes that stopped half way',
  settings: 'Set rules, patterns, fields and the layout of the site',
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

const READER: readonly Right[] = ['sign-in', 'look', 'download'];
const CONTRIBUTOR: readonly Right[] = [...READER, 'bring-in', 'describe'];
const EDITOR: readonly Right[] = [...CONTRIBUTOR, 'publish', 'organise', 'place', 'clean', 'maintain'];
/** The one table of rights: what each role may do. */
const TABLE: Record<Role, readonly Right[]> = {
  reader: READER,
  contributor: CONTRIBUTOR,
  editor: EDITOR,
  steward: [...EDITOR, 'settings', 'people', 'empty'],
};

/** What each role may propose, for somebody who may do it to approve. */
const ASKS: Record<Role, readonly Right[]> = {
  reader: [],
  contributor: ['publish', 'organise', 'place', 'clean'],
  editor: [],
  steward: [],
};

export const isRole = (role: string): role is Role => (ROLES as readonly string[]).includes(role);

/** What somebody of this role may do; of an unknown one, nothing. */
export const rightsOf = (role: string): readonly Right[] => (isRole(role) ? TABLE[role] : []);

/** Whether somebody of this role may do that. */
export const may = (role: string, right: Right): boolean => rightsOf(role).includes(right);

/** Whether folders can bind what somebody of this role may do: who only looks, or answers for all, does so everywhere. */
export const narrows = (role: string): boolean => role === 'contributor' || role === 'editor';

/** How far somebody may go with something: do it, propose it, or neither. */
export type Grant = 'yes' | 'approval' | 'no';
export const grantOf = (role: string, right: Right): Grant =>
  may(role, right) ? 'yes' : isRole(role) && ASKS[role].includes(right) ? 'approval' : 'no';

/** What somebody of this role may propose. */
export const asksOf = (role: string): readonly Right[] => (isRole(role) ? ASKS[role] : []);

/** Whether somebody may see and change a draft: their own, or any where they decide what is published. */
export const mayDraft = (role: string, own: boolean): boolean => may(role, own ? 'bring-in' : 'publish');

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
