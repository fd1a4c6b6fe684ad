import { z } from 'zod';
import { RIGHTS, ROLES, type Right } from '../core/people/rights.ts';

export const PersonView = z.object({
  id: z.int(),
  name: z.string(),
  role: z.string(),
  folders: z.array(z.string()),
});
export type PersonView = z.infer<typeof PersonView>;

export const RightName = z.enum(Object.keys(RIGHTS) as [Right, ...Right[]]);

/** What is to be known before anybody has signed in. */
export const DoorView = z.object({
  site: z.string(),
  /** Who is signed in already. */
  person: PersonView.nullable(),
  /** Nobody can sign in yet: the first link has not been used. */
  unset: z.boolean(),
  /** The demo's people, who need no password; null: this is no demo. */
  demo: z.array(PersonView).nullable(),
  /** The organisation's provider, by which people may come in; null: there is none. */
  provider: z.string().nullable(),
});
export type DoorView = z.infer<typeof DoorView>;

/** Longer ones are refused before they are reckoned with. */
const Password = z.string().max(1000);
const Name = z.string().max(200);
const Token = z.string().max(100);

/** Of an authenticator app, or a recovery code. */
const Code = z.string().max(100);
export const SignIn = z.strictObject({ name: Name, password: Password, code: Code.optional() });
export const SignInAs = z.strictObject({ personId: z.int() });
export const InvitationLook = z.strictObject({ token: Token });
export const InvitationUse = z.strictObject({
  token: Token,
  name: Name,
  password: Password,
  code: Code.optional(),
});
export const PasswordChange = z.strictObject({ current: Password, next: Password });

export const OwnPassword = z.strictObject({ password: Password });
export const FactorCode = z.strictObject({ code: Code });
/** Where to go to sign in. */
export const ProviderAddress = z.object({ address: z.string() });
/** What the provider has put behind the question mark of the address to which it sends people back. */
export const ProviderAnswer = z.strictObject({ answer: z.string().max(8000) });
/** `name`: of the organisation's provider; null: there is none. */
export const ProvidedView = z.object({
  name: z.string().nullable(),
  connected: z.boolean(),
  hasPassword: z.boolean(),
});
export type ProvidedView = z.infer<typeof ProvidedView>;

/** Whether somebody is asked for a code, and how many recovery codes are left. */
export const FactorView = z.object({ set: z.boolean(), codesLeft: z.int() });
export type FactorView = z.infer<typeof FactorView>;
/** What a device takes up: base32 to be typed, and the same as an address for a QR code. */
export const NewFactor = z.object({ secret: z.string(), uri: z.string() });
export type NewFactor = z.infer<typeof NewFactor>;
/** Told once. */
export const RecoveryCodes = z.object({ codes: z.array(z.string()) });

/** A browser that somebody is signed in with. */
export const SessionView = z.object({
  id: z.int(),
  startedAt: z.string(),
  seenAt: z.string(),
  address: z.string(),
  agent: z.string(),
  /** The one that asks. */
  own: z.boolean(),
});
export type SessionView = z.infer<typeof SessionView>;

/** A person as a steward sees one. */
export const MemberView = PersonView.extend({
  hasPassword: z.boolean(),
  hasFactor: z.boolean(),
  /** Comes in by the organisation's provider, whose groups give the role. */
  provided: z.boolean(),
  endedAt: z.string().nullable(),
  seenAt: z.string().nullable(),
});
export type MemberView = z.infer<typeof MemberView>;

/** A token as its person sees it. */
export const TokenView = z.object({
  id: z.int(),
  name: z.string(),
  role: z.string(),
  madeAt: z.string(),
  endsAt: z.string(),
  usedAt: z.string().nullable(),
});
export type TokenView = z.infer<typeof TokenView>;
/** The token itself, told once. */
export const TokenMade = z.object({ token: z.string() });

/** What somebody looks after, their drafts among it, and how many proposals of theirs are open. */
export const Holdings = z.object({ itemIds: z.array(z.int()), proposals: z.int() });
export type Holdings = z.infer<typeof Holdings>;

const Role = z.enum(ROLES);
export const MakeToken = z.strictObject({ name: Name, role: Role, days: z.int().min(1).max(366) });
export const Invite = z.strictObject({ name: Name, role: Role });

/** A link for a person, told once. */
export const InvitationView = z.object({ person: PersonView, token: z.string() });
export type InvitationView = z.infer<typeof InvitationView>;

export const AccessView = z.object({
  id: z.int(),
  at: z.string(),
  what: z.string(),
  person: z.string().nullable(),
  by: z.string().nullable(),
  address: z.string(),
  details: z.string(),
});
export type AccessView = z.infer<typeof AccessView>;
