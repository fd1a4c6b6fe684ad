import { parseArgs } from 'node:util';
import { Fault } from '../server/fault.ts';

/** Says something to the person, on standard error. */
export const said = (sentence: string): void => void process.stderr.write(`${sentence}\n`);

/** Runs a command: its number is the exit code; 2 when it could not be done, with the reason in words. @param name as the sentence about a defect begins */
export function runCommand(name: string, run: () => Promise<number>): void {
  run().then(
    (code) => {
      process.exitCode = code;
    },
    (error: unknown) => {
      const { code } = (error ?? {}) as { code?: string };
      if (error instanceof Fault) said(`${error.message} ${error.remedy}`);
      // Of the arguments.
      else if (code?.startsWith('ERR_PARSE_ARGS')) said((error as Error).message);
      else said(`${name} failed: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}`);
      process.exitCode = 2;
    },
  );
}

/**
 * What a command was told, each a text by its name.
 * @param needed those without which it can't be done
 * @throws Fault 'bad-request' with the usage; an error for what it doesn't know
 */
export function optionsOf<Needed extends string, Other extends string = never>(
  usage: string,
  needed: readonly Needed[],
  others: readonly Other[] = [],
): Record<Needed, string> & Partial<Record<Other, string>> {
  const options = Object.fromEntries(
    [...needed, ...others].map((name) => [name, { type: 'string' as const }]),
  );
  const { values } = parseArgs({ options });
  const missing = needed.filter((name) => !values[name]);
  if (missing.length > 0)
    throw new Fault('bad-request', `Missing: ${missing.map((name) => `--${name}`).join(', ')}.`, usage);
  return values as Record<Needed, string> & Partial<Record<Other, string>>;
}
