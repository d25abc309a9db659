import { describe, expect, it } from 'vitest';
import { statementFault } from '../xapi/statement';
import type { Json, JsonObject } from '../xapi/values';
import { readEnvelope } from './envelope';
import { GRADED, statementOfEvent as translate } from './translate';

const UUIDS = new Map<string, string>();
const uuidOf = (iri: string) => {
  if (!UUIDS.has(iri)) UUIDS.set(iri, `00000000-0000-5000-a000-${String(UUIDS.size).padStart(12, '0')}`);
  return UUIDS.get(iri)!;
};
const statementOfEvent = (event: JsonObject) => translate(event, uuidOf);

const UUID = '3a648e68-f00d-4c08-aa59-8738e1884f2c';
const event = (more: JsonObject = {}): JsonObject => ({
  '@context': 'http://purl.imsglobal.org/ctx/caliper/v1p2',
  id: `urn:uuid:${UUID}`,
  type: 'NavigationEvent',
  actor: { id: 'https://campus.example/users/H-0007', type: 'Person' },
  action: 'NavigatedTo',
  object: { id: 'https://campus.example/items/dry-u1-03', type: 'Document' },
  eventTime: '2026-11-24T09:00:00.000Z',
  group: { id: 'https://campus.example/sections/17', type: 'CourseSection', courseNumber: 'DRY' },
  ...more,
});
const envelope = (data: Json, more: JsonObject = {}): JsonObject => ({
  sensor: 'https://campus.example/sensor',
  sendTime: '2026-11-24T09:00:05.000Z',
  dataVersion: 'http://purl.imsglobal.org/ctx/caliper/v1p2',
  data,
  ...more,
});
const without = (name: string) => Object.fromEntries(Object.entries(event()).filter(([key]) => key !== name));

describe('an envelope', () => {
  it('gives its events, and passes over what describes something', () => {
    const person = { id: 'https://campus.example/users/H-0007', type: 'Person' };
    expect(readEnvelope(envelope([event(), person]))).toMatchObject({
      fault: null,
      events: [{ type: 'NavigationEvent' }],
    });
    expect(readEnvelope(envelope([]))).toMatchObject({ fault: null, events: [] });
  });

  it.each<[string, Json, string]>([
    ['no object', [], ''],
    ['no sensor', envelope([], { sensor: 'me' }), 'sensor'],
    ['no time of sending', envelope([], { sendTime: 'now' }), 'sendTime'],
    ['no version', envelope([], { dataVersion: null }), 'dataVersion'],
    ['no list', envelope({}), 'data'],
    ['something without a type', envelope([event(), { id: 'x' }]), 'data[1]'],
    ['an event without an id', envelope([without('id')]), 'data[0].id'],
    ['an id that is no UUID', envelope([event({ id: 'urn:uuid:7' })]), 'data[0].id'],
    ['an event without an action', envelope([without('action')]), 'data[0].action'],
    ['an event at no time', envelope([event({ eventTime: 'yesterday' })]), 'data[0].eventTime'],
    ['an event of nobody', envelope([event({ actor: {} })]), 'data[0].actor'],
    ['an event about nothing', envelope([event({ object: null })]), 'data[0].object'],
  ])('with %s says where', (_what, value, path) => {
    expect(readEnvelope(value)).toMatchObject({ fault: { path }, isOfAnotherVersion: false });
  });

  it('of another version is told apart', () => {
    const dataVersion = 'http://purl.imsglobal.org/ctx/caliper/v9';
    expect(readEnvelope(envelope([], { dataVersion }))).toMatchObject({ isOfAnotherVersion: true });
  });
});

describe('an event as a statement', () => {
  it('says who did what in which course, and is well-formed', () => {
    const said = statementOfEvent(event());
    expect(said).toMatchObject({
      actor: { account: { homePage: 'https://campus.example', name: 'H-0007' } },
      verb: { id: 'urn:caliper:viewed' },
      object: { id: 'https://campus.example/items/dry-u1-03' },
      context: {
        contextActivities: { grouping: [{ id: 'urn:course:DRY' }, { id: 'https://campus.example/sections/17' }] },
      },
    });
    expect(statementFault(said)).toBeNull();
  });

  it('knows people by the id of their record, else by mail', () => {
    const who = (otherIdentifiers: Json) =>
      statementOfEvent(event({ actor: { id: 'urn:uuid:' + UUID, type: 'Person', otherIdentifiers } })).actor;
    const mail = { type: 'SystemIdentifier', identifierType: 'EmailAddress', identifier: 'a@learner.example' };
    const id = { type: 'SystemIdentifier', identifierType: 'SisSourcedId', identifier: 'H-0007' };
    expect(who([mail])).toEqual({ mbox: 'mailto:a@learner.example' });
    expect(who([mail, id])).toMatchObject({ account: { name: 'H-0007' } });
    expect(who('nonsense')).toMatchObject({ account: { name: UUID } });
    expect(statementOfEvent(event({ actor: 'mailto:b@learner.example' })).actor).toEqual({
      mbox: 'mailto:b@learner.example',
    });
  });

  it('has a grade be of whoever made the attempt', () => {
    const said = statementOfEvent(
      event({
        type: 'GradeEvent',
        action: 'Graded',
        actor: 'https://campus.example/users/T-1',
        object: {
          id: 'https://campus.example/attempts/5',
          type: 'Attempt',
          assignee: 'https://campus.example/users/H-0007',
          assignable: { id: 'https://campus.example/items/dry-q1', isPartOf: 'https://campus.example/units/1' },
        },
        generated: { id: 'https://campus.example/scores/5', type: 'Score', scoreGiven: 7, maxScore: 10 },
      }),
    );
    expect(said).toMatchObject({
      actor: { account: { name: 'H-0007' } },
      verb: { id: GRADED },
      object: { id: 'https://campus.example/items/dry-q1' },
      result: { score: { raw: 7, min: 0, max: 10 } },
      context: { contextActivities: { parent: [{ id: 'https://campus.example/units/1' }] } },
    });
    expect(statementFault(said)).toBeNull();
  });

  it.each<[string, JsonObject, JsonObject]>([
    ['above its maximum', { scoreGiven: 12, maxScore: 10 }, { raw: 12 }],
    ['of no maximum', { scoreGiven: -1 }, { raw: 0 }],
  ])('keeps a score %s', (_what, score, expected) => {
    const said = statementOfEvent(
      event({ type: 'GradeEvent', action: 'Graded', generated: { type: 'Score', ...score } }),
    );
    expect((said.result as JsonObject).score).toEqual(expected);
  });

  it('tells how far a film was seen', () => {
    const seen = (action: string, currentTime?: string) =>
      statementOfEvent(
        event({
          type: 'MediaEvent',
          action,
          object: { id: 'https://campus.example/items/film', type: 'VideoObject', duration: 'PT10M' },
          ...(currentTime && { target: { id: 'https://campus.example/at', type: 'MediaLocation', currentTime } }),
        }),
      );
    expect(seen('Started').verb).toEqual({ id: 'urn:caliper:played' });
    expect(seen('Paused', 'PT2M30S').result).toEqual({ extensions: { 'urn:caliper:progress': 0.25 } });
    expect(seen('Ended').result).toEqual({ extensions: { 'urn:caliper:progress': 1 } });
    expect(seen('Started').result).toBeUndefined();
  });

  it('keeps attempts apart by their ids, and what was answered', () => {
    const submitted = (attempt: string) =>
      statementOfEvent(
        event({
          type: 'AssessmentEvent',
          action: 'Submitted',
          generated: { id: attempt, type: 'Attempt', duration: 'PT5M' },
        }),
      );
    const [one, again, other] = [
      submitted('https://c.example/1'),
      submitted('https://c.example/1'),
      submitted('https://c.example/2'),
    ];
    expect(statementFault(one)).toBeNull();
    expect(one.context).toEqual(again.context);
    expect(one.context).not.toEqual(other.context);
    expect(one.result).toEqual({ duration: 'PT5M' });
    const answered = event({
      type: 'AssessmentItemEvent',
      action: 'Completed',
      generated: { id: 'https://c.example/r', type: 'Response', values: ['a', 'b'] },
    });
    expect(statementOfEvent(answered).result).toEqual({ response: 'a[,]b' });
  });

  it('takes what happened to an application for the course, and an endless chain for a long one', () => {
    const app = { id: 'https://campus.example', type: 'SoftwareApplication' };
    const signed = statementOfEvent(event({ type: 'SessionEvent', action: 'LoggedIn', object: app }));
    expect(signed).toMatchObject({ verb: { id: 'urn:caliper:signed_in' }, object: { id: 'urn:course:DRY' } });
    let deep: JsonObject = { id: 'https://campus.example/top' };
    for (let i = 0; i < 50; i += 1) deep = { id: `https://campus.example/${i}`, isPartOf: deep };
    const { parent } = (statementOfEvent(event({ object: deep })).context as JsonObject)
      .contextActivities as JsonObject;
    expect(parent).toHaveLength(8);
  });
});

describe('a message in a discussion', () => {
  const forum = { id: 'https://campus.example/items/dry-talk', type: 'Forum' };
  const thread = { id: 'https://campus.example/threads/3', type: 'Thread', isPartOf: forum };
  const message = {
    id: 'https://campus.example/messages/9',
    type: 'Message',
    body: 'Which stone first?',
    isPartOf: thread,
  };
  const posted = (more: JsonObject = {}) =>
    statementOfEvent(event({ type: 'MessageEvent', action: 'Posted', object: { ...message, ...more } }));

  it('is what was said, in the thread and the forum that it is part of', () => {
    expect(posted()).toMatchObject({
      verb: { id: 'urn:caliper:posted' },
      result: { response: 'Which stone first?' },
      context: { contextActivities: { parent: [{ id: thread.id }, { id: forum.id }] } },
    });
    expect(statementFault(posted())).toBeNull();
  });

  it('answers where it says to which, and says nothing without a text', () => {
    expect(posted({ replyTo: { id: 'https://campus.example/messages/8', type: 'Message' } })).toMatchObject({
      verb: { id: 'urn:caliper:replied' },
    });
    expect(posted({ body: '' }).result).toBeUndefined();
    expect(posted({ body: 5 }).result).toBeUndefined();
    const read = event({ type: 'MessageEvent', action: 'MarkedAsRead', object: message });
    expect(statementOfEvent(read).result).toBeUndefined();
  });
});
