import { generateKeyPairSync, randomBytes } from 'node:crypto';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import OidcProvider, { interactionPolicy, type Configuration } from 'oidc-provider';

/** Somebody at the organisation's provider. */
export interface Account {
  id: string;
  name: string;
  groups: readonly string[];
}

export const ACCOUNTS_NAME = 'Corvane Hill accounts';

/** Made-up people of the demo's society, who have never been in the library. */
export const ACCOUNTS: readonly Account[] = [
  { id: 'ch-0412', name: 'Ottil Brandreth', groups: ['website', 'observers'] },
  { id: 'ch-0977', name: 'Sefa Quarrie', groups: ['photographers'] },
  { id: 'ch-1203', name: 'Perrin Lask', groups: ['tea-room'] },
];

/** Which of its groups comes in as what. */
export const ACCOUNT_GROUPS = {
  wardens: 'steward',
  website: 'editor',
  photographers: 'contributor',
  observers: 'reader',
} as const;

interface Setting {
  issuer: string;
  clientId: string;
  clientSecret: string;
  /** Where it sends people back. */
  redirectUris: readonly string[];
}

/**
 * A simulated OpenID Connect provider: it speaks the real protocol, and signs in whoever is chosen from its list, without a password. Its keys are
 * made anew at each start; nothing is kept.
 */
export function serveAccounts(setting: Setting, accounts: readonly Account[] = ACCOUNTS): Server {
  const provider = new OidcProvider(setting.issuer, configurationOf(setting, accounts));
  const answer = provider.callback();
  return createServer((request, response) => {
    const path = new URL(request.url ?? '/', setting.issuer).pathname;
    const handled = path.startsWith('/choose/')
      ? choose(provider, accounts, request, response)
      : Promise.resolve(answer(request, response));
    handled.catch((error: Error) => response.writeHead(500).end(error.message));
  });
}

/** One page: who are you? And its answer. */
async function choose(
  provider: OidcProvider,
  accounts: readonly Account[],
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  if (request.method === 'POST') {
    const form = new URLSearchParams(await textOf(request));
    await provider.interactionFinished(request, response, {
      login: { accountId: form.get('account') ?? '' },
    });
    return;
  }
  const buttons = accounts.map(
    ({ id, name, groups }) =>
      `<p><button name="account" value="${id}">${name}</button> ${groups.join(', ')}</p>`,
  );
  response.setHeader('Content-Type', 'text/html; charset=utf-8');
  response.end(
    `<!doctype html><html lang="en"><meta name="viewport" content="width=device-width"><title>${ACCOUNTS_NAME}</title><style>body{font:16px/1.5 sans-serif;max-width:34em;margin:12vh auto;padding:0 1em}button{font:inherit;padding:.3em 1em;min-width:12em}</style><h1>${ACCOUNTS_NAME}</h1><p>A simulated provider with made-up people. Who are you?</p><form method="post">${buttons.join('')}</form>`,
  );
}

async function textOf(request: IncomingMessage): Promise<string> {
  let text = '';
  for await (const part of request) if (text.length < 10_000) text += String(part);
  return text;
}

function configurationOf(setting: Setting, accounts: readonly Account[]): Configuration {
  const key = generateKeyPairSync('rsa', { modulusLength: 2048 }).privateKey.export({ format: 'jwk' });
  // Whoever comes is asked again: nobody stays signed in at it.
  const policy = interactionPolicy.base();
  policy
    .get('login')!
    .checks.add(
      new interactionPolicy.Check('always', 'Choose somebody.', (ctx) =>
        ctx.oidc.result?.login
          ? interactionPolicy.Check.NO_NEED_TO_PROMPT
          : interactionPolicy.Check.REQUEST_PROMPT,
      ),
    );
  return {
    clients: [
      {
        client_id: setting.clientId,
        client_secret: setting.clientSecret,
        redirect_uris: [...setting.redirectUris],
        response_types: ['code'],
        grant_types: ['authorization_code'],
      },
    ],
    jwks: { keys: [{ ...key, use: 'sig', alg: 'RS256', kid: 'one' }] as never },
    cookies: { keys: [randomBytes(24).toString('base64url')] },
    claims: { openid: ['sub'], profile: ['name'], groups: ['groups'] },
    scopes: ['openid', 'profile', 'groups'],
    features: { devInteractions: { enabled: false } },
    interactions: { policy, url: (_ctx, { uid }) => `/choose/${uid}` },
    pkce: { required: () => true },
    findAccount: (_ctx, id) => {
      const found = accounts.find((one) => one.id === id);
      return (
        found && {
          accountId: id,
          claims: () => ({ sub: id, name: found.name, groups: [...found.groups] }),
        }
      );
    },
    // Nobody is asked whether the library may know their name: it is the organisation's own.
    loadExistingGrant: async ({ oidc }) => {
      const grant = new oidc.provider.Grant({
        clientId: oidc.client!.clientId,
        accountId: oidc.session!.accountId!,
      });
      grant.addOIDCScope('openid profile groups');
      await grant.save();
      return grant;
    },
    ttl: { AccessToken: 60, AuthorizationCode: 60, IdToken: 60, Interaction: 600, Grant: 600, Session: 600 },
  };
}
