import * as client from 'openid-client';
import { z } from 'zod';
import { ROLES } from '../../core/people/rights.ts';
import { Fault } from '../fault.ts';
import { newToken } from '../db/sessions.ts';

/** What a provider is known by: the file that `--provider` names. */
export const ProviderSetting = z.strictObject({
  /** As people know it: "Corvane Hill accounts". */
  name: z.string().min(1).max(60),
  /** Its issuer identifier, HTTPS; plain HTTP on this machine only. */
  issuer: z.url().max(500),
  clientId: z.string().min(1).max(500),
  clientSecret: z.string().min(1).max(2000),
  /** The role of each group's members; who is in several gets the one that may most, who is in none does not come in. */
  groups: z.record(z.string().min(1), z.enum(ROLES)),
  /** The claim that lists the groups. */
  groupsClaim: z.string().min(1).max(200).default('groups'),
  scope: z.string().min(1).max(500).default('openid profile groups'),
});
export type ProviderSetting = z.infer<typeof ProviderSetting>;

/** Somebody as the provider names them. */
export interface Identity {
  issuer: string;
  subject: string;
  /** Empty: it does not say. */
  name: string;
  groups: string[];
}

/** A way to the provider that somebody is on. */
interface Pending {
  state: string;
  nonce: string;
  verifier: string;
  redirectUri: string;
  until: number;
  /** Who wants to be connected with it; undefined: somebody who signs in. */
  personId?: number | undefined;
}

/** Milliseconds that somebody may stay there. */
const WAY = 10 * 60_000;
/** So many ways are remembered at once; the oldest are forgotten first. */
const MOST_WAYS = 1000;
/** Seconds that it may take to answer, and that its clock may be off. */
const PATIENCE = 10;
const CLOCK = 60;
/** Bytes of one of its answers. */
const LONGEST_ANSWER = 1_000_000;
/** Milliseconds after which its own description is asked for again; and after which, when it could not be had. */
const DESCRIBED = 3600_000;
const AGAIN = 5000;

const LOOPBACK = /^(?:127\.0\.0\.1|localhost|\[::1\])$/;

/**
 * An organisation's OpenID Connect provider, by the authorization code flow with PKCE, state and nonce (OpenID Connect Core 1.0; RFC 7636;
 * RFC 9700). Signature, issuer, audience, nonce and times of the ID token are checked.
 */
export class Provider {
  private readonly ways = new Map<string, Pending>();
  /** Asked for once for all who come at the same time. */
  private described: { config: Promise<client.Configuration>; until: number } | undefined;

  /** @throws Fault 'bad-request' for an issuer that everybody on the way could read */
  constructor(
    readonly setting: ProviderSetting,
    private readonly clock: () => number = Date.now,
  ) {
    const { protocol, hostname } = new URL(setting.issuer);
    if (protocol !== 'https:' && !(protocol === 'http:' && LOOPBACK.test(hostname)))
      throw new Fault(
        'bad-request',
        `The provider’s address ${setting.issuer} is not HTTPS.`,
        'Name its HTTPS address in the provider’s file.',
      );
  }

  /** @param redirectUri where it sends people back @returns where to go, and what the browser keeps meanwhile */
  async begin(redirectUri: string, personId?: number): Promise<{ address: string; way: string }> {
    const config = await this.configuration();
    const pending: Pending = {
      state: client.randomState(),
      nonce: client.randomNonce(),
      verifier: client.randomPKCECodeVerifier(),
      redirectUri,
      personId,
      until: this.clock() + WAY,
    };
    const address = client.buildAuthorizationUrl(config, {
      redirect_uri: redirectUri,
      scope: this.setting.scope,
      state: pending.state,
      nonce: pending.nonce,
      code_challenge: await client.calculatePKCECodeChallenge(pending.verifier),
      code_challenge_method: 'S256',
    });
    const way = newToken();
    this.ways.set(way, pending);
    for (const oldest of this.ways.keys())
      if (this.ways.size > MOST_WAYS) this.ways.delete(oldest);
      else break;
    return { address: address.href, way };
  }

  /**
   * Somebody comes back. Each way works once.
   * @param answer what stands behind the question mark @throws Fault 'signed-out' with what is wrong
   */
  async finish(
    way: string | undefined,
    answer: string,
  ): Promise<{ identity: Identity; personId?: number | undefined }> {
    const pending = way === undefined ? undefined : this.ways.get(way);
    if (way !== undefined) this.ways.delete(way);
    if (!pending || pending.until < this.clock())
      throw new Fault('signed-out', 'This sign-in was begun elsewhere, or too long ago.', 'Sign in again.');
    const config = await this.configuration();
    try {
      const tokens = await client.authorizationCodeGrant(
        config,
        new URL(`${pending.redirectUri}?${answer}`),
        {
          expectedState: pending.state,
          expectedNonce: pending.nonce,
          pkceCodeVerifier: pending.verifier,
          idTokenExpected: true,
        },
      );
      const claims: Record<string, unknown> = { ...tokens.claims() };
      const subject = String(claims['sub']);
      // Some tell names and groups only when they are asked for them.
      const complete = 'name' in claims && this.setting.groupsClaim in claims;
      if (!complete && config.serverMetadata().userinfo_endpoint !== undefined)
        Object.assign(claims, await client.fetchUserInfo(config, tokens.access_token, subject));
      return { identity: this.identityOf(subject, claims), personId: pending.personId };
    } catch (error) {
      throw this.told(error);
    }
  }

  private identityOf(subject: string, claims: Record<string, unknown>): Identity {
    const text = (value: unknown) => (typeof value === 'string' ? value : '');
    const groups = claims[this.setting.groupsClaim];
    return {
      issuer: this.setting.issuer,
      subject,
      name: text(claims['name']) || text(claims['preferred_username']),
      groups: Array.isArray(groups) ? groups.filter((one): one is string => typeof one === 'string') : [],
    };
  }

  /** What it says of itself. @throws Fault 'busy' when it can't be reached */
  private configuration(): Promise<client.Configuration> {
    if (this.described && this.described.until > this.clock()) return this.described.config;
    const described = { config: this.discover(), until: this.clock() + DESCRIBED };
    // Nobody makes it ask again and again.
    described.config.catch(() => (described.until = this.clock() + AGAIN));
    this.described = described;
    return described.config;
  }

  private async discover(): Promise<client.Configuration> {
    const { issuer, clientId, clientSecret } = this.setting;
    const execute = [client.enableNonRepudiationChecks];
    if (issuer.startsWith('http:')) execute.push(client.allowInsecureRequests);
    try {
      return await client.discovery(
        new URL(issuer),
        clientId,
        { client_secret: clientSecret, [client.clockTolerance]: CLOCK },
        client.ClientSecretBasic(clientSecret),
        { execute, timeout: PATIENCE, [client.customFetch]: boundedFetch },
      );
    } catch (error) {
      throw this.told(error);
    }
  }

  /** What went wrong, as a person can be told. Nothing of its answers is repeated. */
  private told(error: unknown): unknown {
    const { name } = this.setting;
    if (error instanceof Fault) return error;
    if (error instanceof client.AuthorizationResponseError)
      return new Fault(
        'signed-out',
        `You weren’t signed in at ${name}.`,
        'Try again, or sign in with your password.',
      );
    const code = codeOf(error);
    const lie = code === undefined ? undefined : LIES[code];
    if (lie !== undefined)
      return new Fault(
        'signed-out',
        `What ${name} answered can’t be trusted: ${lie}.`,
        'You weren’t signed in. Tell a steward.',
        { reason: lie },
      );
    if (error instanceof client.ResponseBodyError)
      return new Fault('signed-out', `${name} took back this sign-in.`, 'Sign in again.', {
        reason: 'it refused the code',
      });
    if (error instanceof client.ClientError || error instanceof NoAnswer)
      return new Fault(
        'busy',
        `${name} can’t be reached, or gives no proper answer.`,
        'Try again later, or sign in with your password.',
        { reason: 'no proper answer' },
      );
    return error;
  }
}

/** The code of a fault, or of what lies behind it. */
function codeOf(error: unknown): string | undefined {
  const code = (error as { code?: unknown } | null)?.code;
  return typeof code === 'string' ? code : undefined;
}

/** Faults that a proper provider does not make. */
const LIES: Record<string, string> = {
  OAUTH_JWT_CLAIM_COMPARISON_FAILED: 'it is for somebody else, from somebody else, or for another sign-in',
  OAUTH_JSON_ATTRIBUTE_COMPARISON_FAILED: 'it does not call itself what it should',
  OAUTH_JWT_TIMESTAMP_CHECK_FAILED: 'it is too old, or from the future',
  OAUTH_INVALID_RESPONSE: 'it is not signed as it should be, or answers another sign-in',
  OAUTH_KEY_SELECTION_FAILED: 'it is signed with an unknown key',
};

/** Nobody answers, or without an end. */
class NoAnswer extends Error {}

/** Answers of any length are not read. */
const boundedFetch: client.CustomFetch = async (url, options) => {
  const response = await fetch(url, options as RequestInit).catch((error: unknown) => {
    // Not when its time is over, which the library tells by itself.
    throw error instanceof TypeError ? new NoAnswer('It can’t be reached.', { cause: error }) : error;
  });
  const parts: Uint8Array[] = [];
  let length = 0;
  const reader = response.body?.getReader();
  for (let part = await reader?.read(); part && !part.done; part = await reader!.read()) {
    length += part.value.byteLength;
    if (length > LONGEST_ANSWER) {
      await reader!.cancel();
      throw new NoAnswer('The answer is too long.');
    }
    parts.push(part.value);
  }
  const { status, headers } = response;
  return new Response(length === 0 ? null : Buffer.concat(parts), { status, headers });
};
