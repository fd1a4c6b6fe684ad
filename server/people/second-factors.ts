import { randomInt } from 'node:crypto';
import { generateSecret, generateURI, verifySync } from 'otplib';
import type { AccessLog } from '../db/access-log.ts';
import type { Db } from '../db/database.ts';
import type { Person } from '../db/people.ts';
import { SecondFactorRows } from '../db/second-factors.ts';
import type { Origin } from '../db/sessions.ts';
import { Fault } from '../fault.ts';

/** Seconds that a code lasts, and that a device's clock may be off (RFC 6238, 5.2 and 6). */
const STEP = 30;
const TOLERANCE = 30;
/** Recovery codes that are made at once, each of 16 letters and digits (80 bits). */
const CODES = 10;
/** Without those that are mistaken for others. */
const LETTERS = '23456789abcdefghjkmnpqrstuvwxyz';

/** What a person's device takes up. */
export interface NewFactor {
  /** Base32, to be typed. */
  secret: string;
  /** The same for a QR code. */
  uri: string;
}

interface Needs {
  db: Db;
  log: AccessLog;
}

/** The second factor: codes of an authenticator app (TOTP, RFC 6238), and recovery codes for when the device is lost. Each works once. */
export class SecondFactors {
  readonly rows: SecondFactorRows;
  constructor(
    private readonly site: Needs,
    private readonly clock: () => number = Date.now,
  ) {
    this.rows = new SecondFactorRows(site.db);
  }

  isSet(personId: number): boolean {
    return typeof this.rows.of(personId)?.setAt === 'number';
  }

  /** Nothing is asked for until `confirm`. @param name of the site, as the app shows it @throws Fault 'clash' when one is set already */
  begin(person: Person, name: string): NewFactor {
    if (this.isSet(person.id))
      throw new Fault('clash', 'You have a second factor already.', 'Turn it off first to set another one.');
    const secret = generateSecret();
    this.rows.begin(person.id, secret);
    return { secret, uri: generateURI({ secret, issuer: `Iconomos ${name}`, label: person.name }) };
  }

  /** The device makes the right codes: from now on one is asked for. @throws Fault @returns recovery codes, told only this once */
  confirm(person: Person, code: string, origin: Origin): string[] {
    const row = this.rows.of(person.id);
    if (row?.setAt !== null)
      throw new Fault('clash', 'There is no second factor to confirm.', 'Start anew in “Your account”.');
    return this.site.db.write(() => {
      if (!this.isCode(person.id, code))
        throw new Fault(
          'bad-request',
          'This code doesn’t fit.',
          'Check the clock of your device, and type the code that it shows now.',
        );
      this.rows.confirm(person.id, this.clock());
      this.site.log.add('factor-set', person.id, origin);
      return this.newCodes(person.id);
    });
  }

  /** Others work no more. @returns told only this once */
  renewCodes(person: Person, origin: Origin): string[] {
    if (!this.isSet(person.id))
      throw new Fault('clash', 'You have no second factor.', 'Set one up in “Your account”.');
    return this.site.db.write(() => {
      this.site.log.add('recovery-codes', person.id, origin);
      return this.newCodes(person.id);
    });
  }

  /** Whether a code is right: of the device, or a recovery code. It works no more then. */
  check(personId: number, code: string, origin: Origin): boolean {
    return this.site.db.write(() => {
      if (this.isCode(personId, code)) return true;
      const recovery = plain(code);
      if (recovery.length < 16 || !this.rows.useCode(personId, recovery)) {
        this.site.log.add('code-refused', personId, origin);
        return false;
      }
      this.site.log.add('recovery-used', personId, {
        ...origin,
        details: String(this.rows.codesLeft(personId)),
      });
      return true;
    });
  }

  end(personId: number, origin: Origin, byId: number | null = null): void {
    if (!this.rows.of(personId)) return;
    this.site.db.write(() => {
      this.rows.end(personId);
      this.site.log.add('factor-ended', personId, { ...origin, byId });
    });
  }

  private isCode(personId: number, typed: string): boolean {
    const token = typed.replace(/\s/g, '');
    const row = this.rows.of(personId);
    if (!row || !/^\d{6}$/.test(token)) return false;
    const epoch = Math.floor(this.clock() / 1000);
    // A clock that was set back must not lock out for good: what the app shows a step later works.
    const afterTimeStep = Math.min(row.lastStep, Math.floor(epoch / STEP));
    const found = verifySync({
      secret: row.secret,
      token,
      epoch,
      epochTolerance: TOLERANCE,
      afterTimeStep,
    });
    if (!found.valid) return false;
    this.rows.used(personId, Math.floor(epoch / STEP) + found.delta);
    return true;
  }

  private newCodes(personId: number): string[] {
    const codes = Array.from({ length: CODES }, () =>
      Array.from({ length: 16 }, () => LETTERS[randomInt(LETTERS.length)]).join(''),
    );
    this.rows.setCodes(personId, codes);
    return codes.map((code) => code.replace(/(.{4})(?=.)/g, '$1-'));
  }
}

/** As it was made, however it is typed. */
const plain = (code: string) => code.toLowerCase().replace(/[^a-z0-9]/g, '');
