import { hash, verify } from '@node-rs/argon2';
import { createRequire } from 'node:module';
import { LEAST_PASSWORD, passwordFault } from '../../core/people/password.ts';
import { Fault } from '../fault.ts';

/** Argon2id with 19 MiB, two passes and one lane (OWASP Password Storage Cheat Sheet). Reckoned off this thread. */
const COST = { memoryCost: 19_456, timeCost: 2, parallelism: 1 };

/** Of no password: compared with where there is none, so that it takes as long to be told nothing. */
const NOBODYS = hash(`nobody ${Math.random()}`, COST);

export const hashPassword = (password: string): Promise<string> => hash(password.normalize('NFKC'), COST);

/** @param kept null: there is no password; it takes as long all the same */
export async function isPassword(kept: string | null, typed: string): Promise<boolean> {
  const matches = await verify(kept ?? (await NOBODYS), typed.normalize('NFKC'));
  return matches && kept !== null;
}

let common: ReadonlySet<string> | undefined;
/** Passwords that many people have, from lists of stolen ones; the short ones are refused anyway. */
function commonPasswords(): ReadonlySet<string> {
  if (!common) {
    const { dictionary } = createRequire(import.meta.url)('@zxcvbn-ts/language-common') as {
      dictionary: Record<string, readonly string[]>;
    };
    common = new Set(dictionary['passwords-common']!.filter((one) => one.length >= LEAST_PASSWORD));
  }
  return common;
}

/** @throws Fault with a sentence when a password is no good */
export function checkPassword(password: string, name: string): void {
  const fault = passwordFault(password, name, commonPasswords());
  if (fault) throw new Fault('bad-request', fault, 'Nothing was changed.');
}
