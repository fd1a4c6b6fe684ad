import { aRole, lesserRole, may, tokenRoles } from '../../core/people/rights.ts';
import { Fault } from '../fault.ts';
import type { Events } from '../app/events.ts';
import { AccessLog } from '../db/access-log.ts';
import type { Db } from '../db/database.ts';
import { MachineTokens } from '../db/machine-tokens.ts';
import { Invitations } from '../db/invitations.ts';
import { sameName, type People, type Person } from '../db/people.ts';
import { Sessions, type Origin, type SessionRow } from '../db/sessions.ts';
import { checkPassword, hashPassword, isPassword } from './passwords.ts';
import { SecondFactors } from './second-factors.ts';
import { Slowing } from './slowing.ts';

/** How long links work, in milliseconds: the first one, and those that a steward hands on. */
const FIRST_LINK = 24 * 3600_000;
const LINK = 7 * 24 * 3600_000;
const LONGEST_NAME = 80;

/** Somebody who is signed in. */
export interface SignedIn {
  person: Person;
  session: SessionRow;
  /** A new token, where the old one is worth nothing any more. */
  token?: string;
}

interface Needs {
  db: Db;
  people: People;
  events: Events;
  now(): string;
}

/** The door of the application: who comes in, and who is let in by whom. All of it is told in the access log. */
export class Access {
  readonly sessions: Sessions;
  readonly log: AccessLog;
  readonly tokens: MachineTokens;
  readonly factors: SecondFactors;
  private readonly invitations: Invitations;

  constructor(
    private readonly site: Needs,
    private readonly clock: () => number = Date.now,
    private readonly slowing = new Slowing(),
  ) {
    this.sessions = new Sessions(site.db, clock);
    this.invitations = new Invitations(site.db, clock);
    this.tokens = new MachineTokens(site.db, clock);
    this.log = new AccessLog(site.db, () => site.now());
    this.factors = new SecondFactors({ db: site.db, log: this.log }, clock);
  }

  /** Whether a steward can sign in; before, only the first link leads in. */
  get isSet(): boolean {
    const { people } = this.site;
    return people.isAnswered;
  }

  /** The link with which the first steward sets name and password. @returns what it holds */
  firstLink(): string {
    const { people } = this.site;
    const steward = people.all().find((one) => may(one.role, 'people'));
    const id = steward?.id ?? people.add('Steward', 'steward', this.site.now());
    return this.invitations.make(id, this.site.now(), FIRST_LINK);
  }

  /**
   * Wrong name or wrong password: both are told the same, after the same time.
   * @param code for who has a second factor
   * @throws Fault 'signed-out', 'code-needed', 'slowed' @returns the token of a new session
   */
  async signIn(
    { name, password, code }: { name: string; password: string; code?: string | undefined },
    origin: Origin,
  ): Promise<{ person: Person; token: string }> {
    const found = this.site.people.byName(name);
    const key = found ? `person ${found.id}` : `name ${name.toLowerCase().slice(0, LONGEST_NAME)}`;
    try {
      await this.slowing.count(key, origin.address);
    } catch (error) {
      this.log.add('slowed', found?.id ?? null, origin);
      throw error;
    }
    if (!(await isPassword(found?.password ?? null, password)) || !found) {
      this.log.add('refused', found?.id ?? null, origin);
      throw new Fault(
        'signed-out',
        'The name or the password is wrong.',
        'Try again, or ask a steward for a new link.',
      );
    }
    await this.needCode(found.id, code, origin);
    await this.slowing.forget(key, origin.address);
    this.log.add('signed-in', found.id, origin);
    return this.start(found.id, origin);
  }

  /** A new session for somebody who has shown who they are. */
  start(personId: number, origin: Origin): { person: Person; token: string } {
    const person = this.need(personId);
    this.sessions.sweep();
    return { person, token: this.sessions.start(person.id, person.role, origin) };
  }

  /** Who has this token; undefined: nobody any more. */
  who(token: string): SignedIn | undefined {
    const session = this.sessions.find(token);
    const person = session && this.site.people.get(session.personId);
    if (!person) return undefined;
    this.sessions.seen(session);
    if (session.role === person.role) return { person, session };
    return { person, session, token: this.sessions.renew(session.id, person.role) };
  }

  /** Ends a session of somebody. */
  signOut({ person, session }: SignedIn, origin: Origin): void {
    this.sessions.end(session.id, person.id);
    this.log.add('signed-out', person.id, origin);
    this.site.events.emit('people');
  }

  /** Somebody else, or the same person anew, has signed in in its place. */
  leave(session: SessionRow): void {
    this.sessions.end(session.id, session.personId);
    this.site.events.emit('people');
  }

  endSession(person: Person, id: number, origin: Origin): void {
    this.sessions.end(id, person.id);
    this.log.add('session-ended', person.id, origin);
    this.site.events.emit('people');
  }

  /** Another password; all other sessions of the person end. @throws Fault */
  async changePassword(
    { person, session }: { person: Person; session: SessionRow },
    current: string,
    next: string,
    origin: Origin,
  ): Promise<void> {
    await this.needPassword(person, current, origin);
    checkPassword(next, person.name);
    const hash = await hashPassword(next);
    this.site.db.write(() => {
      this.site.people.setPassword(person.id, hash);
      this.sessions.endAll(person.id, session.id);
      this.log.add('password-set', person.id, origin);
    });
    this.site.events.emit('people');
  }

  /** For what nobody may do who only found a window open. @throws Fault 'forbidden', 'slowed' */
  async needPassword(person: Person, password: string, origin: Origin): Promise<void> {
    await this.slowing.count(`person ${person.id}`, origin.address);
    if (!(await isPassword(this.site.people.password(person.id), password)))
      throw new Fault('forbidden', 'The current password is wrong.', 'Nothing was changed. Try again.');
    await this.slowing.forget(`person ${person.id}`, origin.address);
  }

  /** A token by which a program comes in on somebody's behalf. @throws Fault @returns the token, told only this once */
  makeToken(person: Person, name: string, role: string, days: number, origin: Origin): string {
    if (!tokenRoles(person.role).some((one) => one === role))
      throw new Fault(
        'forbidden',
        `As ${aRole(person.role)} you can’t make a token for ${aRole(role)}.`,
        'Choose a role that may less.',
      );
    const called = tidyName(name);
    return this.site.db.write(() => {
      this.log.add('token-made', person.id, { ...origin, details: called });
      return this.tokens.make({
        personId: person.id,
        name: called,
        role,
        endsAt: this.clock() + days * 24 * 3600_000,
      });
    });
  }

  endToken(person: Person, id: number, origin: Origin): void {
    const name = this.tokens.end(person.id, id);
    if (name === undefined) return;
    this.log.add('token-ended', person.id, { ...origin, details: name });
    this.site.events.emit('people');
  }

  /** Whether a token still lets somebody in. */
  isToken(token: string): boolean {
    const row = this.tokens.find(token);
    return row !== undefined && this.site.people.get(row.personId) !== undefined;
  }

  /**
   * On whose behalf a program comes, and by which token: it may no more than the token, and no more than its person may now.
   * @throws Fault 'signed-out' for a token that doesn't work
   */
  byToken(token: string, origin: Origin): { person: Person; name: string } {
    const row = this.tokens.find(token);
    const person = row && this.site.people.get(row.personId);
    if (person) return { person: { ...person, role: lesserRole(row.role, person.role) }, name: row.name };
    this.log.add('token-refused', row?.personId ?? null, origin);
    throw new Fault(
      'signed-out',
      'This token doesn’t work: it has ended, or there never was one.',
      'Make a new one in “Your account”.',
    );
  }

  /** Whose a link is. @throws Fault 'not-found' when it works no more */
  invited(token: string, origin: Origin): Person {
    const id = this.invitations.personOf(token);
    const person = id === undefined ? undefined : this.site.people.get(id);
    if (person) return person;
    this.log.add('invitation-refused', null, origin);
    throw new Fault(
      'not-found',
      'This link doesn’t work any more: it was used, is too old, or another one was made.',
      'Ask a steward for a new one.',
    );
  }

  /** Sets name and password by a link, which works no more then. @throws Fault @returns the token of a new session */
  async accept(
    {
      token,
      name,
      password,
      code,
    }: { token: string; name: string; password: string; code?: string | undefined },
    origin: Origin,
  ): Promise<{ person: Person; token: string }> {
    const { id } = this.invited(token, origin);
    const called = tidyName(name);
    this.free(called, id);
    checkPassword(password, called);
    // Who hands on a link must not come in by it in place of its person.
    if (this.factors.isSet(id)) {
      await this.slowing.count(`person ${id}`, origin.address);
      await this.needCode(id, code, origin);
      await this.slowing.forget(`person ${id}`, origin.address);
    }
    const hash = await hashPassword(password);
    const started = this.site.db.write(() => {
      // Somebody may have used it while the password was reckoned with.
      this.invited(token, origin);
      this.site.people.setName(id, called);
      this.site.people.setPassword(id, hash);
      this.invitations.used(id);
      this.sessions.endAll(id);
      this.log.add('invitation-used', id, origin);
      return this.start(id, origin);
    });
    this.site.events.emit('people');
    return started;
  }

  /** The name of somebody who is to be invited, tidy. @throws Fault */
  newName(name: string): string {
    const called = tidyName(name);
    this.free(called);
    return called;
  }

  /** Somebody whom another system vouches for; what they may do is set by a plan. @throws Fault @returns their number */
  add(name: string, voucher: string): number {
    if (name.trim() === '')
      throw new Fault('bad-request', `${voucher} doesn’t say what you are called.`, 'Ask a steward.');
    const called = tidyName(name);
    if (this.site.people.rows().some((one) => sameName(one.name, called)))
      throw new Fault(
        'clash',
        `There is a “${called}” here already.`,
        'If it is you, sign in with your password and connect in “Your account”; else ask a steward.',
      );
    return this.site.people.add(called, '', this.site.now());
  }

  /** A new link for somebody, who sets a new password with it. @throws Fault */
  linkFor(id: number, by: Person, origin: Origin): { person: Person; token: string } {
    const person = this.need(id);
    const token = this.invitations.make(id, this.site.now(), LINK);
    this.log.add('invited', id, { ...origin, byId: by.id });
    return { person, token };
  }

  /** For who has lost what makes their codes, and the recovery codes too. @throws Fault */
  endFactor(id: number, by: Person, origin: Origin): void {
    this.need(id);
    this.factors.end(id, origin, by.id);
    this.site.events.emit('people');
  }

  /** After a try was counted. @throws Fault 'code-needed' */
  private async needCode(id: number, code: string | undefined, origin: Origin): Promise<void> {
    if (!this.factors.isSet(id)) return;
    if (!code?.trim()) {
      await this.slowing.uncount(`person ${id}`, origin.address);
      throw new Fault(
        'code-needed',
        'You have a second factor.',
        'Type the code that your authenticator app shows, or a recovery code.',
      );
    }
    if (!this.factors.check(id, code, origin))
      throw new Fault(
        'code-needed',
        'This code is wrong, or was used already.',
        'Wait for the next one, or type a recovery code.',
      );
  }

  private need(id: number): Person {
    const person = this.site.people.get(id);
    if (!person) throw new Fault('not-found', 'There is no such person.', 'Reload the page.');
    return person;
  }

  /** @throws Fault when somebody else has this name, or had it: the ledger must not mistake one for the other */
  private free(name: string, but = 0): void {
    if (this.site.people.rows().some((one) => one.id !== but && sameName(one.name, name)))
      throw new Fault('clash', `There is a “${name}” already.`, 'Choose another name.');
  }
}

function tidyName(name: string): string {
  const tidy = name.normalize('NFC').replace(/\s+/g, ' ').trim();
  if (tidy === '' || tidy.length > LONGEST_NAME || /\p{C}/u.test(tidy))
    throw new Fault(
      'bad-request',
      `A name has 1 to ${LONGEST_NAME} characters and no control characters.`,
      'Write another one.',
    );
  return tidy;
}
