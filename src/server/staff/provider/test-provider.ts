/** For the tests: a provider of sign-ins that can be told to lie, to be slow and to go away. */
import { createHash, randomUUID } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { SignJWT, UnsecuredJWT, exportJWK, generateKeyPair, type CryptoKey, type JWK } from 'jose';

export interface Lies {
  alg: 'RS256' | 'none' | 'HS256';
  aud: string;
  iss: string;
  nonce: string;
  /** Seconds by which its clock is off. */
  off: number;
  /** Signs with a key that it has not published. */
  foreignKey: boolean;
  /** Tells of e-mail and name only when asked. */
  small: boolean;
  /** Whom it tells of when asked. */
  otherSub: string;
}

const CLIENT = 'lee-shore';
const SECRET = 'a-secret-of-the-tests';

export class TestProvider {
  issuer = '';
  /** Milliseconds before each answer. */
  delay = 0;
  private server: Server | null = null;
  private keys: { kid: string; key: CryptoKey; jwk: JWK }[] = [];
  private readonly codes = new Map<string, { challenge: string; nonce: string; claims: object; lies: Partial<Lies> }>();
  private lastClaims: object = {};

  static async start(): Promise<TestProvider> {
    const provider = new TestProvider();
    await provider.rotate();
    provider.server = createServer((request, response) => {
      let body = '';
      request.on('data', (chunk: Buffer) => (body += chunk.toString()));
      request.on('end', () => {
        void provider.answer(request.url ?? '', new URLSearchParams(body)).then(({ status, json }) =>
          setTimeout(() => {
            response.writeHead(status, { 'content-type': 'application/json' });
            response.end(JSON.stringify(json));
          }, provider.delay),
        );
      });
    });
    await new Promise<void>((resolve) => provider.server!.listen(0, '127.0.0.1', resolve));
    provider.issuer = `http://127.0.0.1:${(provider.server.address() as AddressInfo).port}`;
    return provider;
  }

  /** Signs with a new key from now on; the old one is not published any more. */
  async rotate(): Promise<void> {
    const { privateKey, publicKey } = await generateKeyPair('RS256', { extractable: true });
    const kid = randomUUID();
    this.keys = [{ kid, key: privateKey, jwk: { ...(await exportJWK(publicKey)), kid, alg: 'RS256', use: 'sig' } }];
  }

  stop(): Promise<void> {
    this.server?.closeAllConnections();
    return new Promise((resolve) => (this.server ? this.server.close(() => resolve()) : resolve()));
  }

  settings() {
    return { issuer: this.issuer, clientId: CLIENT, clientSecret: SECRET, name: 'The college' };
  }

  /** Somebody signs in there. @param to where they were sent. Returns the query of the address that they are sent back to. */
  signIn(to: string, claims: object, lies: Partial<Lies> = {}): URLSearchParams {
    const asked = new URL(to).searchParams;
    const code = randomUUID();
    this.codes.set(code, { challenge: asked.get('code_challenge')!, nonce: asked.get('nonce')!, claims, lies });
    return new URLSearchParams({ code, state: asked.get('state')!, iss: this.issuer });
  }

  private async answer(url: string, body: URLSearchParams): Promise<{ status: number; json: unknown }> {
    if (url === '/.well-known/openid-configuration')
      return {
        status: 200,
        json: {
          issuer: this.issuer,
          authorization_endpoint: `${this.issuer}/authorize`,
          token_endpoint: `${this.issuer}/token`,
          jwks_uri: `${this.issuer}/jwks`,
          userinfo_endpoint: `${this.issuer}/me`,
          end_session_endpoint: `${this.issuer}/end`,
          response_types_supported: ['code'],
          subject_types_supported: ['public'],
          id_token_signing_alg_values_supported: ['RS256'],
          authorization_response_iss_parameter_supported: true,
        },
      };
    if (url === '/jwks') return { status: 200, json: { keys: this.keys.map(({ jwk }) => jwk) } };
    if (url === '/me') return { status: 200, json: this.lastClaims };
    const code = body.get('code') ?? '';
    const known = this.codes.get(code);
    this.codes.delete(code);
    const challenge = createHash('sha256')
      .update(body.get('code_verifier') ?? '')
      .digest('base64url');
    if (!known || known.challenge !== challenge) return { status: 400, json: { error: 'invalid_grant' } };
    const id_token = await this.token(known.nonce, known.claims, known.lies);
    return { status: 200, json: { access_token: randomUUID(), token_type: 'Bearer', expires_in: 60, id_token } };
  }

  private async token(nonce: string, claims: object, lies: Partial<Lies>): Promise<string> {
    const { sub, ...rest } = claims as { sub: string };
    this.lastClaims = { sub: lies.otherSub ?? sub, ...rest };
    const at = Math.floor(Date.now() / 1000) + (lies.off ?? 0);
    const payload = {
      ...(lies.small ? {} : rest),
      sub,
      nonce: lies.nonce ?? nonce,
      iss: lies.iss ?? this.issuer,
      aud: lies.aud ?? CLIENT,
      iat: at,
      exp: at + 60,
    };
    if (lies.alg === 'none') return new UnsecuredJWT(payload).encode();
    if (lies.alg === 'HS256')
      return new SignJWT(payload).setProtectedHeader({ alg: 'HS256' }).sign(new TextEncoder().encode(SECRET.repeat(2)));
    const [{ kid, key }] = this.keys;
    const signing = lies.foreignKey ? (await generateKeyPair('RS256')).privateKey : key;
    return new SignJWT(payload).setProtectedHeader({ alg: 'RS256', kid }).sign(signing);
  }
}
