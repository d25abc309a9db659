/** The stand-in for a course platform that people come in from: LTI 1.3 launches, and its names and roles. */
import { randomBytes, randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { SignJWT, createRemoteJWKSet, exportJWK, generateKeyPair, jwtVerify } from 'jose';
import { bodyOf, frame, html, send } from '../page';

interface Member {
  user_id: string;
  roles: string[];
  given_name: string;
  family_name: string;
  email: string;
  status: 'Active' | 'Inactive';
  lis_person_sourcedid?: string;
}

interface Course {
  id: string;
  label: string;
  title: string;
  members: Member[];
}

const port = Number(process.env.LTI_PORT ?? 4308);
const origin = `http://127.0.0.1:${port}`;
const app = process.env.LEESHORE_URL ?? 'http://127.0.0.1:4300';
const client = process.env.LTI_CLIENT_ID ?? 'lee-shore';
const DEPLOYMENT = '1';
const PER_PAGE = 100;
const courses: Course[] = JSON.parse(readFileSync(process.env.LTI_FILE ?? 'lti.json', 'utf8'));

const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim';
const { privateKey, publicKey } = await generateKeyPair('RS256', { extractable: true });
const kid = randomBytes(8).toString('hex');
const keys = { keys: [{ ...(await exportJWK(publicKey)), kid, alg: 'RS256', use: 'sig' }] };
const toolKeys = createRemoteJWKSet(new URL(`${app}/lti/keys`));
/** Words that were given, and until when; assertions that were used. */
const words = new Map<string, number>();
const used = new Set<string>();

const teaches = ({ roles }: Member) => roles.some((role) => !role.endsWith('#Learner'));
const sayRole = ({ roles }: Member) => roles.map((role) => role.split('#')[1]).join(', ');

function home(response: ServerResponse): void {
  const lists = courses.map((course) => {
    // A few of those who learn, to see that they are not let in.
    const shown = [...course.members.filter(teaches), ...course.members.filter((one) => !teaches(one)).slice(0, 2)];
    const rows = shown.map(
      (one) =>
        `<tr><td>${html(`${one.given_name} ${one.family_name}`)}<td>${html(sayRole(one))}<td><a href="/open?course=${encodeURIComponent(course.id)}&amp;user=${encodeURIComponent(one.user_id)}">Open Lee Shore</a></tr>`,
    );
    return `<h2>${html(course.title)}</h2><table><tr><th>Name<th>Role<th></tr>${rows.join('')}</table>`;
  });
  const settings = Object.entries(aboutUs()).map(([name, value]) => `<tr><th>${name}<td>${html(value)}</tr>`);
  const says = '<p>A stand-in for a course platform: its people come in to Lee Shore from their courses.</p>';
  const body = `<h1>Courses</h1>${says}${lists.join('')}<h2>What Lee Shore has to know of it</h2><table>${settings.join('')}</table>`;
  send(response, 200, 'text/html', frame('Courses', body));
}

const aboutUs = () => ({
  Issuer: origin,
  'Client id': client,
  Deployments: DEPLOYMENT,
  'Sign-in address': `${origin}/auth`,
  'Keys address': `${origin}/keys`,
  'Token address': `${origin}/token`,
});

function find(course: string | null, user: string | null) {
  const found = courses.find(({ id }) => id === course);
  const member = found?.members.find(({ user_id }) => user_id === user);
  if (!found || !member) throw new Error('nobody');
  return { course: found, member };
}

/** A press on a name: the tool is told that somebody wants to come. */
function open(url: URL, response: ServerResponse): void {
  const [course, user] = [url.searchParams.get('course'), url.searchParams.get('user')];
  find(course, user);
  const to = new URL(`${app}/lti/login`);
  const says = { iss: origin, login_hint: user!, lti_message_hint: course!, target_link_uri: `${app}/lti/launch` };
  for (const [name, value] of Object.entries({ ...says, client_id: client, lti_deployment_id: DEPLOYMENT }))
    to.searchParams.set(name, value);
  response.writeHead(302, { location: to.href }).end();
}

/** The tool asks who that is: their browser takes the answer there in a form. */
async function authorise(url: URL, response: ServerResponse): Promise<void> {
  const asked = url.searchParams;
  const isOurs = asked.get('client_id') === client && asked.get('redirect_uri') === `${app}/lti/launch`;
  if (!isOurs || asked.get('response_type') !== 'id_token' || !asked.get('nonce')) throw new Error('not the tool');
  const { course, member } = find(asked.get('lti_message_hint'), asked.get('login_hint'));
  const token = await new SignJWT({
    nonce: asked.get('nonce'),
    email: member.email,
    given_name: member.given_name,
    family_name: member.family_name,
    name: `${member.given_name} ${member.family_name}`,
    [`${CLAIM}/version`]: '1.3.0',
    [`${CLAIM}/message_type`]: 'LtiResourceLinkRequest',
    [`${CLAIM}/deployment_id`]: DEPLOYMENT,
    [`${CLAIM}/target_link_uri`]: `${app}/lti/launch`,
    [`${CLAIM}/resource_link`]: { id: `${course.id}-link` },
    [`${CLAIM}/roles`]: member.roles,
    [`${CLAIM}/context`]: { id: course.id, label: course.label, title: course.title },
    'https://purl.imsglobal.org/spec/lti-nrps/claim/namesroleservice': {
      context_memberships_url: `${origin}/members?course=${encodeURIComponent(course.id)}`,
      service_versions: ['2.0'],
    },
  })
    .setProtectedHeader({ alg: 'RS256', kid })
    .setIssuer(origin)
    .setSubject(member.user_id)
    .setAudience(client)
    .setIssuedAt()
    .setExpirationTime('5m')
    .sign(privateKey);
  const fields = Object.entries({ id_token: token, state: asked.get('state') ?? '' }).map(
    ([name, value]) => `<input type="hidden" name="${name}" value="${html(value)}">`,
  );
  const form = `<form method="post" action="${html(`${app}/lti/launch`)}">${fields.join('')}<button autofocus>Go on to Lee Shore</button></form>`;
  response.writeHead(200, {
    'content-type': 'text/html; charset=utf-8',
    'content-security-policy': `default-src 'none'; style-src 'unsafe-inline'; form-action ${app}`,
  });
  response.end(frame('Go on', `<h1>${html(course.title)}</h1>${form}`));
}

/** A word for names and roles, for whoever signs with the tool's key. */
async function giveWord(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const form = new URLSearchParams(await bodyOf(request));
  const { payload } = await jwtVerify(form.get('client_assertion') ?? '', toolKeys, {
    issuer: client,
    subject: client,
    audience: `${origin}/token`,
    requiredClaims: ['jti', 'exp'],
  });
  if (used.has(payload.jti!)) throw new Error('used before');
  used.add(payload.jti!);
  const word = randomUUID();
  words.set(word, Date.now() + 3_600_000);
  const answer = { access_token: word, token_type: 'Bearer', expires_in: 3600, scope: form.get('scope') };
  send(response, 200, 'application/json', JSON.stringify(answer));
}

function members(url: URL, request: IncomingMessage, response: ServerResponse): void {
  const word = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1] ?? '';
  if ((words.get(word) ?? 0) < Date.now()) return send(response, 401, 'application/json', '{}');
  const course = courses.find(({ id }) => id === url.searchParams.get('course'));
  if (!course) return send(response, 404, 'application/json', '{}');
  const page = Number(url.searchParams.get('page') ?? 0);
  const context = { id: course.id, label: course.label, title: course.title };
  if (course.members.length > (page + 1) * PER_PAGE)
    response.setHeader(
      'link',
      `<${origin}/members?course=${encodeURIComponent(course.id)}&page=${page + 1}>; rel="next"`,
    );
  const shown = course.members.slice(page * PER_PAGE, (page + 1) * PER_PAGE);
  const answer = { id: url.href, context, members: shown };
  send(response, 200, 'application/vnd.ims.lti-nrps.v2.membershipcontainer+json', JSON.stringify(answer));
}

async function answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const url = new URL(request.url ?? '/', origin);
  if (url.pathname === '/') return home(response);
  if (url.pathname === '/open') return open(url, response);
  if (url.pathname === '/auth') return authorise(url, response);
  if (url.pathname === '/keys') return send(response, 200, 'application/json', JSON.stringify(keys));
  if (url.pathname === '/token' && request.method === 'POST') return giveWord(request, response);
  if (url.pathname === '/members') return members(url, request, response);
  send(response, 404, 'text/html', frame('Not here', '<h1>Not here</h1>'));
}

createServer((request, response) => {
  answer(request, response).catch((error: Error) =>
    send(response, 400, 'text/html', frame('Not so', `<h1>Not so: ${html(error.message)}</h1>`)),
  );
}).listen(port, '127.0.0.1', () => console.log(`Stand-in for a platform with LTI on ${origin}`));
