/** The stand-in for a provider of sign-ins: a real one (OpenID Connect), whose people sign in by a press on their name. */
import { randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { exportJWK, generateKeyPair } from 'jose';
import { Provider } from 'oidc-provider';
import { frame, html, send } from '../page';

interface Person {
  email: string;
  email_verified: boolean;
  given_name: string;
  family_name: string;
  groups: string[];
}

const port = Number(process.env.PROVIDER_PORT ?? 4307);
const issuer = `http://127.0.0.1:${port}`;
const clientId = process.env.LEESHORE_OIDC_CLIENT_ID ?? 'lee-shore';
const app = process.env.LEESHORE_URL ?? 'http://127.0.0.1:4300';
const people: Person[] = JSON.parse(readFileSync(process.env.PROVIDER_FILE ?? 'provider.json', 'utf8'));

const { privateKey } = await generateKeyPair('RS256', { extractable: true });
const provider = new Provider(issuer, {
  clients: [
    {
      client_id: clientId,
      client_secret: process.env.LEESHORE_OIDC_CLIENT_SECRET ?? 'a-secret-of-the-demo',
      redirect_uris: [`${app}/sign-in/provider/back`],
      post_logout_redirect_uris: [`${app}/sign-in`],
      grant_types: ['authorization_code'],
      response_types: ['code'],
    },
  ],
  jwks: { keys: [{ ...(await exportJWK(privateKey)), use: 'sig', alg: 'RS256', kid: randomBytes(8).toString('hex') }] },
  cookies: { keys: [randomBytes(32).toString('hex')] },
  claims: {
    openid: ['sub'],
    email: ['email', 'email_verified'],
    profile: ['name', 'given_name', 'family_name', 'groups'],
  },
  findAccount: (_, sub) => {
    const person = people[Number(/^person-(\d+)$/.exec(sub)?.[1])];
    if (!person) return undefined;
    const name = `${person.given_name} ${person.family_name}`;
    return { accountId: sub, claims: () => ({ sub, name, ...person }) };
  },
  // Whoever signs in here agrees to that: nothing more is asked.
  loadExistingGrant: async ({ oidc }) => {
    const grant = new oidc.provider.Grant({ clientId: oidc.client!.clientId, accountId: oidc.session!.accountId });
    grant.addOIDCScope('openid email profile');
    await grant.save();
    return grant;
  },
  interactions: { url: (_, { uid }) => `/interaction/${uid}` },
  pkce: { required: () => true },
  features: {
    devInteractions: { enabled: false },
    rpInitiatedLogout: {
      enabled: true,
      logoutSource: (ctx, form) => {
        ctx.body = frame(
          'Sign out',
          `<h1>Sign out of the stand-in too?</h1>${form}<button autofocus type="submit" form="op.logoutForm" name="logout" value="yes">Sign out</button>`,
        );
      },
      postLogoutSuccessSource: (ctx) => {
        ctx.body = frame('Signed out', '<h1>Signed out</h1>');
      },
    },
  },
});

const handle = provider.callback();

function list(response: ServerResponse, uid: string): void {
  const rows = people.map(
    ({ given_name, family_name, email, email_verified, groups }, index) =>
      `<tr><td><a href="/interaction/${uid}/${index}">${html(`${given_name} ${family_name}`)}</a></td><td>${html(email)}${
        email_verified ? '' : ' (not vouched for)'
      }</td><td>${html(groups.join(', '))}</td></tr>`,
  );
  const says = '<p>A stand-in for the sign-in service of a college. Everybody in it is made up.</p>';
  send(
    response,
    200,
    'text/html',
    frame(
      'Sign in',
      `<h1>Who are you?</h1>${says}<table><tr><th>Name<th>E-mail<th>Groups</tr>${rows.join('')}</table>`,
    ),
  );
}

async function answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const [, uid, index] = /^\/interaction\/([\w-]+)(?:\/(\d+))?$/.exec(request.url ?? '') ?? [];
  if (uid === undefined) return void (await handle(request, response));
  if (index === undefined) return list(response, uid);
  await provider.interactionFinished(request, response, { login: { accountId: `person-${index}` } });
}

createServer((request, response) => {
  answer(request, response).catch(() =>
    send(response, 400, 'text/html', frame('Over', '<h1>That sign-in is over</h1>')),
  );
}).listen(port, '127.0.0.1', () => console.log(`Sign-in stand-in on ${issuer}`));
