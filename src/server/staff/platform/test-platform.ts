/** For the tests: a course platform that can be told to lie, to be away, and to have many members. */
import { randomUUID } from 'node:crypto';
import { createServer, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import {
  SignJWT,
  UnsecuredJWT,
  exportJWK,
  generateKeyPair,
  jwtVerify,
  type CryptoKey,
  type JWK,
  type JSONWebKeySet,
  createLocalJWKSet,
} from 'jose';

const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim';
const ROLE = 'http://purl.imsglobal.org/vocab/lis/v2/membership';
export const INSTRUCTOR = `${ROLE}#Instructor`;
export const LEARNER = `${ROLE}#Learner`;
const PER_PAGE = 3;

export interface Lies {
  alg: 'none' | 'HS256';
  aud: string | string[];
  azp: string;
  iss: string;
  nonce: string;
  /** Seconds by which its clock is off. */
  off: number;
  foreignKey: boolean;
  claims: Record<string, unknown>;
}

export interface Member {
  user_id: string;
  roles?: string[];
  given_name?: string;
  family_name?: string;
  email?: string;
  status?: string;
  lis_person_sourcedid?: string;
}

export class TestPlatform {
  origin = '';
  members: Member[] = [];
  /** The keys by which the tool is known, once a test has told them. */
  toolKeys: JSONWebKeySet | null = null;
  /** Answers of its own for an address. */
  answers = new Map<string, { status: number; body: string; link?: string }>();
  asked: string[] = [];
  private server: Server | null = null;
  private kid = '';
  private key: CryptoKey | null = null;
  private jwk: JWK | null = null;
  private readonly seen = new Set<string>();
  private word = '';

  static async start(): Promise<TestPlatform> {
    const platform = new TestPlatform();
    await platform.rotate();
    platform.server = createServer((request, response) => {
      void platform.answer(request).then(({ status, body, link }) => {
        response.writeHead(status, { 'content-type': 'application/json', ...(link ? { link } : {}) });
        response.end(body);
      });
    });
    await new Promise<void>((resolve) => platform.server!.listen(0, '127.0.0.1', resolve));
    platform.origin = `http://127.0.0.1:${(platform.server.address() as AddressInfo).port}`;
    return platform;
  }

  async stop(): Promise<void> {
    this.server?.closeAllConnections();
    await new Promise<void>((resolve) => this.server!.close(() => resolve()));
  }

  /** Signs with a new key from now on; the old one is not published any more. */
  async rotate(): Promise<void> {
    const { privateKey, publicKey } = await generateKeyPair('RS256', { extractable: true });
    this.kid = randomUUID();
    this.key = privateKey;
    this.jwk = { ...(await exportJWK(publicKey)), kid: this.kid, alg: 'RS256', use: 'sig' };
  }

  /** What a lead types of it. */
  settings() {
    return {
      name: 'Campus',
      issuer: 'https://campus.example',
      client_id: 'tool-1',
      deployments: 'd1, d2',
      login_url: `${this.origin}/auth`,
      keys_url: `${this.origin}/keys`,
      token_url: `${this.origin}/token`,
      vouches_for_email: 'yes',
    };
  }

  /** Somebody goes on from where they were sent. @returns what their browser posts */
  async launch(to: string, somebody: Record<string, unknown>, lies: Partial<Lies> = {}) {
    const asked = new URL(to).searchParams;
    const at = Math.floor(Date.now() / 1000) + (lies.off ?? 0);
    const payload = {
      [`${CLAIM}/version`]: '1.3.0',
      [`${CLAIM}/message_type`]: 'LtiResourceLinkRequest',
      [`${CLAIM}/deployment_id`]: 'd1',
      [`${CLAIM}/roles`]: [INSTRUCTOR],
      [`${CLAIM}/context`]: { id: 'c7', label: 'DRY', title: 'Drystone walling' },
      'https://purl.imsglobal.org/spec/lti-nrps/claim/namesroleservice': {
        context_memberships_url: `${this.origin}/members`,
      },
      ...somebody,
      nonce: lies.nonce ?? asked.get('nonce'),
      iss: lies.iss ?? this.settings().issuer,
      aud: lies.aud ?? asked.get('client_id'),
      ...(lies.azp === undefined ? {} : { azp: lies.azp }),
      iat: at,
      exp: at + 300,
      ...lies.claims,
    };
    return { id_token: await this.sign(payload, lies), state: asked.get('state')! };
  }

  private async sign(payload: Record<string, unknown>, { alg, foreignKey }: Partial<Lies>): Promise<string> {
    if (alg === 'none') return new UnsecuredJWT(payload).encode();
    if (alg === 'HS256')
      return new SignJWT(payload)
        .setProtectedHeader({ alg, kid: this.kid })
        .sign(new TextEncoder().encode(JSON.stringify(this.jwk)));
    const key = foreignKey ? (await generateKeyPair('RS256')).privateKey : this.key!;
    return new SignJWT(payload).setProtectedHeader({ alg: 'RS256', kid: this.kid }).sign(key);
  }

  private async answer(request: IncomingMessage): Promise<{ status: number; body: string; link?: string }> {
    const url = new URL(request.url ?? '', this.origin);
    this.asked.push(url.pathname);
    const own = this.answers.get(url.pathname);
    if (own) return own;
    if (url.pathname === '/keys') return json({ keys: [this.jwk] });
    if (url.pathname === '/token') return this.giveWord(new URLSearchParams(await bodyOf(request)));
    if (url.pathname !== '/members') return { status: 404, body: '{}' };
    if (request.headers.authorization !== `Bearer ${this.word}` || this.word === '') return { status: 401, body: '{}' };
    const page = Number(url.searchParams.get('page') ?? 0);
    const members = this.members.slice(page * PER_PAGE, (page + 1) * PER_PAGE);
    const isLast = (page + 1) * PER_PAGE >= this.members.length;
    return {
      ...json({ id: url.href, context: { id: 'c7' }, members }),
      ...(isLast ? {} : { link: `<${this.origin}/members?page=${page + 1}>; rel="next"` }),
    };
  }

  /** A word for its services, for whoever shows by their key that they are the tool; each assertion is good once. */
  private async giveWord(form: URLSearchParams) {
    try {
      const keys = createLocalJWKSet(this.toolKeys!);
      const { payload } = await jwtVerify(form.get('client_assertion')!, keys, {
        issuer: 'tool-1',
        subject: 'tool-1',
        audience: `${this.origin}/token`,
        requiredClaims: ['jti', 'iat', 'exp'],
      });
      if (this.seen.has(payload.jti!) || !form.get('scope')?.includes('contextmembership')) throw new Error('no');
      this.seen.add(payload.jti!);
      this.word = randomUUID();
      return json({ access_token: this.word, token_type: 'Bearer', expires_in: 3600 });
    } catch {
      return { status: 400, body: '{"error":"invalid_client"}' };
    }
  }
}

const json = (value: unknown) => ({ status: 200, body: JSON.stringify(value) });

async function bodyOf(request: IncomingMessage): Promise<string> {
  let body = '';
  for await (const chunk of request) body += String(chunk);
  return body;
}
