import { may, ROLES, type Role } from '../../core/people/rights.ts';
import type { Person } from '../db/people.ts';
import { ProvidedPeople } from '../db/provided-people.ts';
import type { Origin } from '../db/sessions.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { Fault } from '../fault.ts';
import type { Identity, Provider } from './provider.ts';

type Needs = Pick<OpenedSite, 'db' | 'people' | 'access' | 'events' | 'now'>;

/** Coming in by an organisation's provider: it says who somebody is, and its groups say what they may do. */
export class ProviderDoor {
  readonly people: ProvidedPeople;
  /** @param setRole by a plan, in the name of the person themselves */
  constructor(
    private readonly site: Needs,
    readonly provider: Provider,
    private readonly setRole: (personId: number, role: Role) => Promise<void>,
  ) {
    this.people = new ProvidedPeople(site.db);
  }

  get name(): string {
    return this.provider.setting.name;
  }

  /**
   * Somebody comes back from the provider.
   * @param signedIn who is signed in in this browser
   * @throws Fault @returns the token of a new session; undefined: who is signed in has been connected
   */
  async finish(
    way: string | undefined,
    answer: string,
    origin: Origin,
    signedIn: Person | undefined,
  ): Promise<{ person: Person; token: string } | undefined> {
    const { access } = this.site;
    try {
      const { identity, personId } = await this.provider.finish(way, answer);
      if (personId === undefined) return await this.enter(identity, origin);
      if (signedIn?.id !== personId)
        throw new Fault('signed-out', 'Somebody else has signed in meanwhile.', 'Sign in and connect again.');
      this.connect(identity, signedIn, origin);
      return undefined;
    } catch (error) {
      const reason =
        error instanceof Fault ? (error.details as { reason?: string } | undefined)?.reason : undefined;
      if (reason !== undefined)
        access.log.add('provider-refused', null, { ...origin, details: `${this.name}: ${reason}` });
      throw error;
    }
  }

  /** @throws Fault 'clash' when they would have no way in any more */
  disconnect(person: Person, origin: Origin): void {
    if (this.site.people.password(person.id) === null)
      throw new Fault(
        'clash',
        `You sign in with ${this.name} only.`,
        'Ask a steward for a link and set a password first.',
      );
    this.site.db.write(() => {
      this.people.remove(person.id);
      this.site.access.log.add('provider-disconnected', person.id, { ...origin, details: this.name });
    });
    this.site.events.emit('people');
  }

  private async enter(identity: Identity, origin: Origin): Promise<{ person: Person; token: string }> {
    const { db, people, access, events } = this.site;
    const role = this.roleOf(identity);
    const known = this.people.personOf(identity.issuer, identity.subject);
    if (known !== undefined && !people.get(known)) {
      access.log.add('provider-refused', known, { ...origin, details: `${this.name}: access has ended` });
      throw new Fault('signed-out', 'Your access here has ended.', 'Ask a steward to bring you back.');
    }
    if (role === undefined) {
      access.log.add('provider-refused', known ?? null, {
        ...origin,
        details: `${this.name}: no group that may come in`,
      });
      // Who may no more is not left in by an older session either.
      if (known !== undefined) access.sessions.endAll(known);
      throw new Fault(
        'signed-out',
        `None of your groups at ${this.name} may come in here.`,
        'Ask a steward which group you need.',
      );
    }
    const id = known ?? db.write(() => this.add(identity, origin));
    await this.follow(id, role);
    const started = db.write(() => {
      access.log.add('signed-in', id, { ...origin, details: this.name });
      return access.start(id, origin);
    });
    events.emit('people');
    return started;
  }

  private add({ issuer, subject, name }: Identity, origin: Origin): number {
    const { access } = this.site;
    const id = access.add(name, this.name);
    this.people.add(issuer, subject, id);
    access.log.add('provider-added', id, { ...origin, details: this.name });
    return id;
  }

  /** The role that the groups give now, unless nobody would be left to answer for all. */
  private async follow(id: number, role: Role): Promise<void> {
    const { people } = this.site;
    const before = people.get(id)!.role;
    const left = people
      .rows()
      .some((one) => one.id !== id && one.endedAt === null && one.hasPassword && may(one.role, 'people'));
    if (before === role || (!may(role, 'people') && may(before, 'people') && !left)) return;
    await this.setRole(id, role);
  }

  /** Whoever is signed in comes in by the provider too, from now on. */
  private connect({ issuer, subject }: Identity, person: Person, origin: Origin): void {
    const { db, access, events } = this.site;
    db.write(() => {
      if (this.people.personOf(issuer, subject) !== undefined || this.people.has(person.id))
        throw new Fault(
          'clash',
          `This account at ${this.name} is connected with somebody here already.`,
          'Ask a steward.',
        );
      this.people.add(issuer, subject, person.id);
      access.log.add('provider-connected', person.id, { ...origin, details: this.name });
    });
    events.emit('people');
  }

  /** Of the roles of somebody's groups the one that may most; undefined: none. */
  private roleOf({ groups }: Identity): Role | undefined {
    const given = new Set(groups.map((group) => this.provider.setting.groups[group]));
    return [...ROLES].reverse().find((role) => given.has(role));
  }
}
