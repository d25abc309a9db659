import { describe, expect, it } from 'vitest';
import { launchOf, newsOf, roleOf, rosterOf } from './platform-claims';

const ROLE = 'http://purl.imsglobal.org/vocab/lis/v2/membership';
const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim';

describe('the role of somebody who comes from a platform', () => {
  it.each([
    [[`${ROLE}#Instructor`], 'instructor'],
    [['Instructor'], 'instructor'],
    [[`${ROLE}#Instructor`, `${ROLE}/Instructor#TeachingAssistant`], 'mentor'],
    [[`${ROLE}#Mentor`], 'mentor'],
    [[`${ROLE}/Mentor#Tutor`], 'mentor'],
    [[`${ROLE}#Learner`], 'learner'],
    [[`${ROLE}#Learner`, `${ROLE}#Instructor`], 'instructor'],
    [['http://purl.imsglobal.org/vocab/lis/v2/institution/person#Administrator'], null],
    [['http://purl.imsglobal.org/vocab/lis/v2/institution/person#Instructor'], null],
    [[`${ROLE}#Administrator`], null],
    [[`https://evil.example/?${ROLE}#Instructor`], null],
    [[], null],
  ])('%j: %s', (roles, role) => expect(roleOf(roles)).toBe(role));
});

describe('a launch', () => {
  const whole = {
    [`${CLAIM}/version`]: '1.3.0',
    [`${CLAIM}/message_type`]: 'LtiResourceLinkRequest',
    [`${CLAIM}/deployment_id`]: 'd1',
    [`${CLAIM}/roles`]: [`${ROLE}#Instructor`],
    [`${CLAIM}/context`]: { id: 'c7', label: 'DRY', title: ' Drystone walling ' },
    'https://purl.imsglobal.org/spec/lti-nrps/claim/namesroleservice': { context_memberships_url: 'https://p/m' },
  };

  it('says where from and as what', () => {
    expect(launchOf(whole)).toEqual({
      deployment: 'd1',
      role: 'instructor',
      context: { id: 'c7', label: 'DRY', title: 'Drystone walling', membersUrl: 'https://p/m' },
    });
    expect(launchOf({ ...whole, [`${CLAIM}/context`]: { id: 'c8' } })).toMatchObject({
      context: { id: 'c8', label: '', title: 'c8' },
    });
    for (const context of [undefined, null, 'c7', { id: 7 }, { id: '' }])
      expect(launchOf({ ...whole, [`${CLAIM}/context`]: context })).toMatchObject({ context: null });
  });

  it.each([
    ['version', '1.1', 'of no version'],
    ['message_type', 'LtiDeepLinkingRequest', 'no launch of a link'],
    ['deployment_id', undefined, 'names no deployment'],
    ['deployment_id', ['d1'], 'names no deployment'],
  ])('without a good %s (%j) is none', (name, value, says) =>
    expect(launchOf({ ...whole, [`${CLAIM}/${name}`]: value })).toContain(says),
  );
});

describe('members as a roster', () => {
  const learner = { user_id: '5', roles: [`${ROLE}#Learner`], given_name: 'Cerys', family_name: 'Abara', email: 'c@x' };

  it('are those who learn, by the id of the student records or that of the platform', () => {
    expect(rosterOf([learner, { ...learner, lis_person_sourcedid: 'S5' }], 'Saltholm', 'DRY')).toEqual([
      {
        learner_id: 'Saltholm:5',
        given_name: 'Cerys',
        family_name: 'Abara',
        email: 'c@x',
        course: 'DRY',
        status: 'active',
      },
      expect.objectContaining({ learner_id: 'S5' }),
    ]);
    const others = [{ ...learner, roles: [`${ROLE}#Instructor`] }, { ...learner, user_id: '' }, null, 'x', 5, {}];
    expect(rosterOf(others, 'Saltholm', 'DRY')).toEqual([]);
  });

  it('have one name where two are not told, and have left where they are not active', () => {
    const rest = { user_id: '5', roles: learner.roles };
    expect(rosterOf([{ ...rest, name: 'Cerys Abara', status: 'Deleted' }], 'S', 'DRY')).toMatchObject([
      { given_name: 'Cerys Abara', family_name: '', status: 'withdrawn' },
    ]);
  });
});

describe('what a roster of a platform brings', () => {
  const line = (learner_id: string, status = 'active') => ({
    ...{ learner_id, status, given_name: 'G', family_name: 'F', email: '', course: 'DRY' },
  });
  const here = (learner_id: string, status: string) => {
    const { given_name, family_name, email } = line(learner_id);
    return { learner_id, status, given_name, family_name, email };
  };
  const statuses = (rows: ReturnType<typeof newsOf>) => rows.map((row) => `${row.learner_id} ${row.status}`);

  it('is who is there anew, back, or gone', () => {
    const before = (id: string) => ['stays', 'gone', 'inactive'].includes(id);
    const rows = [line('stays'), line('new'), line('back'), line('inactive', 'withdrawn'), line('never', 'withdrawn')];
    const own = [
      here('stays', 'active'),
      here('back', 'withdrawn'),
      here('gone', 'active'),
      here('inactive', 'active'),
    ];
    expect(statuses(newsOf(rows, [...own, here('by file', 'active')], before))).toEqual([
      'stays ',
      'new active',
      'back active',
      'inactive withdrawn',
      'gone withdrawn',
    ]);
  });

  it('leaves what was settled here since, and what nobody here knows', () => {
    const before = (id: string) => id !== 'first seen';
    const own = [here('left', 'withdrawn'), here('done', 'completed'), here('first seen', 'completed')];
    const rows = [line('left'), line('done'), line('first seen'), line('not taken')];
    expect(statuses(newsOf(rows, own, before))).toEqual(['left ', 'done ', 'first seen ', 'not taken active']);
    const inactive = [line('done', 'withdrawn'), line('again', 'withdrawn'), line('stranger', 'withdrawn')];
    expect(newsOf(inactive, [...own, here('again', 'active')], () => false)).toEqual([]);
  });
});
