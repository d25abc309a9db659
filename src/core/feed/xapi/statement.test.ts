import { describe, expect, it } from 'vitest';
import { acceptedLanguages, formatStatement } from './format';
import { actorKey, lastPart, readStatement, saysTheSame, verbWord } from './read';
import { VOIDED, statementFault } from './statement';
import { isDuration, isTimestamp, type JsonObject } from './values';

const actor = { mbox: 'mailto:ines@learner.example' };
const verb = { id: 'https://verbs.example/completed', display: { 'en-GB': 'completed' } };
const object = { id: 'https://campus.example/DRY/D1' };
const ID = '6690e6c9-3ef0-4ed3-8b37-7f3964730bee';
const plain = (more: JsonObject = {}): JsonObject => ({ actor, verb, object, ...more });
const faultOf = (statement: JsonObject) => {
  const fault = statementFault(statement);
  return fault && `${fault.path} ${fault.reason}`;
};

describe('a well-formed statement', () => {
  it.each([
    ['the least there can be', plain()],
    [
      'an account',
      plain({ actor: { objectType: 'Agent', account: { homePage: 'https://campus.example', name: 'L1' } } }),
    ],
    ['an anonymous group', plain({ actor: { objectType: 'Group', member: [actor] } })],
    ['a group by its address', plain({ actor: { objectType: 'Group', mbox: 'mailto:team@learner.example' } })],
    [
      'a result',
      plain({ result: { score: { scaled: 0.9, raw: 9, min: 0, max: 10 }, success: true, duration: 'PT4M' } }),
    ],
    ['null within extensions', plain({ result: { extensions: { 'https://x.example/e': { a: null } } } })],
    ['a statement about a person', plain({ object: { objectType: 'Agent', ...actor } })],
    ['a statement about another', plain({ object: { objectType: 'StatementRef', id: ID } })],
    ['a statement within one', plain({ object: { objectType: 'SubStatement', actor, verb, object } })],
    [
      'activities around it, bare or listed',
      plain({ context: { contextActivities: { parent: object, grouping: [object] } } }),
    ],
    ['agents around it', plain({ context: { contextAgents: [{ objectType: 'contextAgent', agent: actor }] } })],
    [
      'an attachment kept elsewhere',
      plain({
        attachments: [
          {
            usageType: 'https://x.example/u',
            display: {},
            contentType: 'text/plain',
            length: 3,
            sha2: 'abc',
            fileUrl: 'https://x.example/f',
          },
        ],
      }),
    ],
  ])('may hold %s', (_, statement) => expect(statementFault(statement)).toBeNull());

  it.each([
    ['verb is missing', { actor, object }],
    ['id is not a UUID', plain({ id: 'one' })],
    ['colour is no property of a statement', plain({ colour: 'red' })],
    ['result is null', plain({ result: null })],
    ['actor has none of mbox, mbox_sha1sum, openid, account', plain({ actor: { name: 'Ines' } })],
    [
      'actor.account stands beside another identifier',
      plain({ actor: { ...actor, account: { homePage: 'https://c.example', name: 'L1' } } }),
    ],
    ['actor.mbox is not a mailto address', plain({ actor: { mbox: 'ines@learner.example' } })],
    ['actor.member belongs to a group', plain({ actor: { ...actor, member: [actor] } })],
    ['verb.id is not an IRI', plain({ verb: { id: 'completed' } })],
    ['verb.display.?? is not a language tag', plain({ verb: { id: verb.id, display: { '??': 'x' } } })],
    ['object.id is not an IRI', plain({ object: { id: 'D1' } })],
    ['object.objectType is no kind of object', plain({ object: { objectType: 'Thing', id: object.id } })],
    [
      'object.object is a statement within a statement within one',
      plain({
        object: {
          objectType: 'SubStatement',
          actor,
          verb,
          object: { objectType: 'SubStatement', actor, verb, object },
        },
      }),
    ],
    [
      'object.id is no property of a statement',
      plain({ object: { objectType: 'SubStatement', id: ID, actor, verb, object } }),
    ],
    ['result.score.scaled does not lie between -1 and 1', plain({ result: { score: { scaled: 2 } } })],
    ['result.score.raw does not lie between min and max', plain({ result: { score: { raw: 11, max: 10 } } })],
    ['result.duration is not an ISO 8601 duration', plain({ result: { duration: '4 minutes' } })],
    ['context.registration is not a UUID', plain({ context: { registration: '7' } })],
    [
      'context.platform is said of an activity alone',
      plain({ object: { objectType: 'Agent', ...actor }, context: { platform: 'x' } }),
    ],
    ['context.team is not a group', plain({ context: { team: actor } })],
    ['timestamp is not an ISO 8601 instant since 1990', plain({ timestamp: '2026-02-30T10:00:00Z' })],
    ['version is not 1.0.x or 2.0.x', plain({ version: '0.95' })],
    [
      'attachments[0].fileUrl is missing',
      plain({
        attachments: [
          { usageType: 'https://x.example/u', display: {}, contentType: 'text/plain', length: 3, sha2: 'abc' },
        ],
      }),
    ],
    [
      'object is not the reference to a statement that a voiding one needs',
      plain({ verb: { id: 'http://adlnet.gov/expapi/verbs/voided' } }),
    ],
  ])('is refused when %s', (says, statement) => expect(faultOf(statement as JsonObject)).toBe(says));

  it('is an object', () => {
    expect(statementFault('text')).not.toBeNull();
    expect(statementFault([])).not.toBeNull();
    expect(statementFault(null)).not.toBeNull();
  });
});

it.each([
  ['2026-11-24T09:10:00Z', true],
  ['2026-11-24T09:10:00.123+02:00', true],
  ['2026-11-24T09:10:00-00:00', false],
  ['2026-02-29T09:10:00Z', false],
  ['24.11.2026', false],
])('timestamp %s: %s', (text, is) => expect(isTimestamp(text)).toBe(is));

it.each([
  ['PT1H30M', true],
  ['P1DT2H', true],
  ['P3W', true],
  ['PT', false],
  ['P', false],
])('duration %s: %s', (text, is) => expect(isDuration(text)).toBe(is));

describe('what a statement says', () => {
  it('is read with everybody and everything in it', () => {
    const said = readStatement(
      plain({
        context: {
          registration: ID.toUpperCase(),
          instructor: { mbox: 'mailto:Jory@staff.example' },
          contextActivities: {
            parent: { id: 'https://campus.example/DRY' },
            category: [{ id: 'https://x.example/c' }],
          },
        },
      }),
    );
    expect(said).toMatchObject({
      verb: verb.id,
      activity: object.id,
      around: ['https://campus.example/DRY'],
      refersTo: null,
      isVoiding: false,
    });
    expect(said.keys).toEqual({
      actor: ['mailto:ines@learner.example'],
      agent: ['mailto:ines@learner.example', 'mailto:jory@staff.example'],
      object: [object.id],
      activity: [object.id, 'https://campus.example/DRY', 'https://x.example/c'],
      verb: [verb.id],
      registration: [ID],
    });
  });

  it('is found by whom it is about, members of a group and people in a statement within it included', () => {
    const [a, b, c] = ['a', 'b', 'c'].map((name) => ({ mbox: `mailto:${name}@x.example` }));
    const asked = readStatement(
      plain({ actor: { objectType: 'Group', ...a, member: [b] }, object: { objectType: 'Agent', ...c } }),
    );
    expect(asked.keys.actor).toEqual(['mailto:a@x.example', 'mailto:b@x.example', 'mailto:c@x.example']);
    const within = readStatement(plain({ object: { objectType: 'SubStatement', actor: b, verb, object } }));
    expect(within.keys).toMatchObject({
      actor: ['mailto:ines@learner.example'],
      agent: ['mailto:ines@learner.example', 'mailto:b@x.example'],
      object: [],
      activity: [object.id],
    });
  });

  it('may be about another statement, to declare it void or not', () => {
    const reference = { objectType: 'StatementRef', id: ID.toUpperCase() };
    expect(readStatement(plain({ object: reference }))).toMatchObject({
      refersTo: ID,
      isVoiding: false,
      activity: null,
    });
    expect(readStatement(plain({ verb: { id: VOIDED }, object: reference })).isVoiding).toBe(true);
  });

  it('knows one group by its members in any order', () => {
    const [a, b] = [{ mbox: 'mailto:a@x.example' }, { mbox: 'mailto:b@x.example' }];
    const group = (member: JsonObject[]) => actorKey({ objectType: 'Group', member });
    expect(group([a, b])).toBe(group([b, a]));
  });

  it.each([
    ['http://verbs.example/Signed-In/', 'signed_in'],
    ['https://verbs.example/watched%20it?x=1', 'watched_it'],
    ['urn:verb:posted', 'posted'],
    ['https://verbs.example/%E0%A4%A', '%e0%a4%a'],
  ])('has the word of %s', (iri, word) => expect(verbWord(iri)).toBe(word));

  it('takes the last part of an IRI, without what follows it', () => {
    expect(lastPart('https://campus.example/DRY/D1#top')).toBe('D1');
  });

  it('is the same in another order of properties, and not with another word', () => {
    const stored = plain({
      id: ID,
      stored: 'x',
      authority: actor,
      version: '1.0.0',
      timestamp: '2026-11-24T09:10:00Z',
    });
    expect(saysTheSame(stored, { object, verb, actor } as JsonObject)).toBe(true);
    expect(saysTheSame(stored, plain({ timestamp: '2026-11-24T09:10:01Z' }))).toBe(false);
    expect(saysTheSame(stored, plain({ verb: { id: 'https://verbs.example/failed' } }))).toBe(false);
    const around = (parent: JsonObject | JsonObject[]) => plain({ context: { contextActivities: { parent } } });
    expect(saysTheSame(around([object]), around(object))).toBe(true);
  });
});

describe('formats', () => {
  const full = plain({
    actor: { ...actor, name: 'Ines' },
    object: { ...object, definition: { name: { 'en-GB': 'Stone', cy: 'Carreg' } } },
  });

  it('leave ids alone, or one language', () => {
    expect(formatStatement(full, 'ids')).toMatchObject({ actor, verb: { id: verb.id }, object });
    expect(formatStatement(full, 'ids').object).not.toHaveProperty('definition');
    expect(formatStatement(full, 'canonical', ['cy'])).toMatchObject({
      object: { definition: { name: { cy: 'Carreg' } } },
    });
    expect(formatStatement(full, 'canonical', ['fr'])).toMatchObject({
      object: { definition: { name: { 'en-GB': 'Stone' } } },
    });
    expect(formatStatement(full, 'exact')).toBe(full);
  });

  it('read the languages preferred', () => {
    expect(acceptedLanguages('en;q=0.5, cy, *;q=0.1')).toEqual(['cy', 'en']);
    expect(acceptedLanguages(null)).toEqual([]);
  });
});
