import { randomBytes } from 'node:crypto';
import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { z } from 'zod';

/** Runs the demo's provider of accounts, by which people may sign in. It reads the same file as the server; with --make it only writes that. */
// What its library says of being no real provider, it knows.
/* eslint-disable no-console */
const { warn } = console;
console.warn = (text: unknown, ...more: unknown[]) => {
  if (!String(text).includes('oidc-provider WARNING')) warn(text, ...more);
};
const { ACCOUNT_GROUPS, ACCOUNTS_NAME, serveAccounts } = await import('./accounts.ts');

const { values } = parseArgs({
  options: {
    provider: { type: 'string' },
    app: { type: 'string', multiple: true },
    make: { type: 'string' },
  },
});
if (values.provider && values.make) {
  rmSync(values.provider, { force: true });
  const made = {
    name: ACCOUNTS_NAME,
    issuer: `http://127.0.0.1:${values.make}`,
    clientId: 'iconomos',
    clientSecret: randomBytes(24).toString('base64url'),
    groups: ACCOUNT_GROUPS,
  };
  writeFileSync(values.provider, `${JSON.stringify(made, null, 2)}\n`, { mode: 0o600 });
  process.exit(0);
}
if (!values.provider || !values.app) {
  process.stderr.write('The accounts need --provider FILE, and --app ORIGIN or --make PORT.\n');
  process.exit(2);
}
const setting = z
  .object({ issuer: z.url(), clientId: z.string(), clientSecret: z.string() })
  .parse(JSON.parse(readFileSync(values.provider, 'utf8')));
const { port } = new URL(setting.issuer);
serveAccounts({ ...setting, redirectUris: values.app.map((origin) => `${origin}/sign-in/back`) })
  .on('error', (error) => {
    // The demo works without it: only nobody comes in by it.
    process.stderr.write(`The demo’s provider of accounts could not start: ${error.message}\n`);
    process.exit(1);
  })
  .listen(Number(port), '127.0.0.1', () =>
    process.stdout.write(
      `${ACCOUNTS_NAME}, a simulated provider to sign in with, is at ${setting.issuer}/\n`,
    ),
  );
