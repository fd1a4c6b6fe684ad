import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { exportJWK, generateKeyPair, SignJWT, type JWTPayload } from 'jose';

/** What a provider may lie about; each changes one thing of an otherwise proper answer. */
export interface Lies {
  /** What it calls itself. */
  issuer?: string;
  claims?: JWTPayload;
  /** Signed with a key that it never told of. */
  otherKey?: boolean;
  /** Not signed at all. */
  unsigned?: boolean;
  /** The answer of its token endpoint, as it stands. */
  tokens?: string;
  /** Nobody answers. */
  silent?: boolean;
}

/** An OpenID Connect provider of few lines, that can lie. It vouches for whoever comes, by the claims that it is given. */
export class LyingProvider {
  lies: Lies = {};
  issuer = '';
  /** How often it was asked for tokens. */
  asked = 0;
  private server!: Server;

  static async start(): Promise<LyingProvider> {
    const own = new LyingProvider();
    const algorithm = 'RS256';
    const [key, other] = [await generateKeyPair(algorithm), await generateKeyPair(algorithm)];
    const jwk = { ...(await exportJWK(key.publicKey)), kid: 'one', alg: algorithm, use: 'sig' };
    const idToken = async (): Promise<string> => {
      const now = Math.floor(Date.now() / 1000);
      const claims: JWTPayload = {
        iss: own.issuer,
        aud: 'iconomos',
        sub: 'u-1',
        iat: now,
        exp: now + 60,
        ...own.lies.claims,
      };
      if (own.lies.unsigned) {
        const part = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url');
        return `${part({ alg: 'none' })}.${part(claims)}.`;
      }
      return new SignJWT(claims)
        .setProtectedHeader({ alg: algorithm, kid: 'one' })
        .sign(own.lies.otherKey ? other.privateKey : key.privateKey);
    };
    own.server = createServer((request, response) => {
      const { pathname } = new URL(request.url!, own.issuer);
      const say = (value: object | string) =>
        response
          .setHeader('Content-Type', 'application/json')
          .end(typeof value === 'string' ? value : JSON.stringify(value));
      if (own.lies.silent) response.destroy();
      else if (pathname === '/.well-known/openid-configuration')
        say({
          issuer: own.lies.issuer ?? own.issuer,
          authorization_endpoint: `${own.issuer}/authorize`,
          token_endpoint: `${own.issuer}/token`,
          jwks_uri: `${own.issuer}/keys`,
          response_types_supported: ['code'],
          subject_types_supported: ['public'],
          id_token_signing_alg_values_supported: [algorithm],
        });
      else if (pathname === '/keys') say({ keys: [jwk] });
      else if (pathname === '/token') {
        own.asked++;
        idToken().then(
          (id_token) =>
            say(own.lies.tokens ?? { access_token: 'abc', token_type: 'Bearer', expires_in: 60, id_token }),
          (error: Error) => response.destroy(error),
        );
      } else response.writeHead(404).end();
    });
    await new Promise<void>((done) => own.server.listen(0, '127.0.0.1', done));
    own.issuer = `http://127.0.0.1:${(own.server.address() as AddressInfo).port}`;
    return own;
  }

  close(): void {
    this.server.closeAllConnections();
    this.server.close();
  }
}
