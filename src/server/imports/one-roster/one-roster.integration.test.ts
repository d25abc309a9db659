import { buffer } from 'node:stream/consumers';
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { afterEach, describe, expect, it } from 'vitest';
import { ONE_ROSTER_FILES } from '@/core/imports/one-roster/files';
import { learnerDetail } from '@/server/people/learner-detail';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { bringIn, smallRuntime, testRuntime, viewerByEmail, type TestRuntime } from '@/server/testing';
import { oneRosterFile } from './export';

const opened: TestRuntime[] = [];
const keep = async (made: Promise<TestRuntime>) => {
  const runtime = await made;
  opened.push(runtime);
  return runtime;
};
afterEach(async () => {
  for (const runtime of opened.splice(0)) await runtime.close();
});

const FILES = {
  orgs: 'sourcedId,status,dateLastModified,name,type,identifier,parentSourcedId\no1,,,Saltholm Works,school,,\no2,,,Norrick,department,,o1\n',
  academicSessions:
    'sourcedId,status,dateLastModified,title,type,startDate,endDate,parentSourcedId,schoolYear\nt1,,,Autumn,term,2026-09-28,2026-12-21,,2026\n',
  courses:
    'sourcedId,status,dateLastModified,schoolYearSourcedId,title,courseCode,grades,orgSourcedId,subjects,subjectCodes\nc1,,,,Drystone Walling,DRY,,o1,,\nc2,,,,Net Work,NET,,o1,,\n',
  classes:
    'sourcedId,status,dateLastModified,title,grades,courseSourcedId,classCode,classType,location,schoolSourcedId,termSourcedIds,subjects,subjectCodes,periods\nk1,,,A,,c1,,scheduled,,o1,t1,,,\nk2,,,B,,c1,,scheduled,,o1,t1,,,\nk3,,,Net Work,,c2,,scheduled,,o1,t1,,,\nk4,tobedeleted,,Old,,c2,,scheduled,,o1,t1,,,\n',
  users:
    'sourcedId,status,dateLastModified,enabledUser,username,userIds,givenName,familyName,middleName,identifier,email,sms,phone,agentSourcedIds,grades,password,userMasterIdentifier,resourceSourcedIds,preferredGivenName,preferredMiddleName,preferredFamilyName,primaryOrgSourcedId,pronouns\nu1,,,true,ines,,Ines,Marrow,,,ines@learner.example,,+44 1632 960001,,,,,,,,,o2,\nu2,,,true,tobias,,Tobias,Quill,,,tobias@learner.example,,,,,,,,Toby,,,o1,\nu3,tobedeleted,2026-11-02,true,halima,,Halima,Okoro,,,,,,,,,,,,,,o1,\ns1,,,true,mair,,Mair,Tolland,,,mair@staff.example,,,,,,,,,,,o1,\n',
  roles:
    'sourcedId,status,dateLastModified,userSourcedId,roleType,role,beginDate,endDate,orgSourcedId,userProfileSourcedId\nr1,,,u1,primary,student,,,o2,\n',
  enrollments:
    'sourcedId,status,dateLastModified,classSourcedId,schoolSourcedId,userSourcedId,role,primary,beginDate,endDate\ne1,,,k1,o1,u1,student,,2026-10-05,\ne2,,,k2,o1,u2,student,,,2026-10-30\ne3,,,k3,o1,u3,student,,,\ne4,,,k3,o1,u1,student,,,\ne5,,,k1,o1,s1,teacher,true,,\ne6,,,k4,o1,u1,student,,,\ne7,,,k1,o1,u2,guardian,,,\n',
  categories: 'sourcedId,status,dateLastModified,title,weight\ng1,,,Quizzes,40\n',
  lineItems:
    'sourcedId,status,dateLastModified,title,description,assignDate,dueDate,classSourcedId,categorySourcedId,gradingPeriodSourcedId,resultValueMin,resultValueMax,schoolSourcedId\nl1,,,Wall quiz,,2026-10-01T08:00:00Z,2026-10-12,k1,g1,,0,20,o1\nl2,,,Wall quiz,,,2026-10-12,k2,g1,,0,20,o1\nl3,tobedeleted,,Gone,,,,k1,,,0,10,o1\n',
  results:
    'sourcedId,status,dateLastModified,lineItemSourcedId,studentSourcedId,scoreStatus,score,scoreDate,comment,classSourcedId,inProgress,incomplete,late,missing\nx1,,,l1,u1,fully graded,15,2026-10-14,Well built,k1,,,,\nx2,,,l2,u2,exempt,,,ill,k2,,,,\nx3,,,l3,u1,fully graded,1,2026-10-14,,k1,,,,\n',
};
const archive = (files: Record<string, string> = FILES) =>
  Buffer.from(zipSync(Object.fromEntries(Object.entries(files).map(([name, text]) => [`${name}.csv`, strToU8(text)]))));

const enrolled = async ({ db }: TestRuntime) =>
  (
    await db('enrolment as e')
      .join('learner as l', 'l.id', 'e.learner_id')
      .join('course as c', 'c.id', 'e.course_id')
      .leftJoin('course_group as g', 'g.id', 'e.group_id')
      .leftJoin('organisation as o', 'o.id', 'l.organisation_id')
      .orderBy(['l.external_id', 'c.code'])
      .select('l.external_id as id', 'l.given_name as given', 'c.code', 'g.name as group', 'e.status', 'o.name as org')
  ).map(({ id, given, code, group, status, org }) => `${id} ${given} ${code}/${group ?? ''} ${status} ${org ?? ''}`);

describe('an archive of OneRoster', () => {
  it('brings people, courses, groups, staff, work and results', async () => {
    const runtime = await keep(testRuntime());
    const run = await bringIn(runtime, 'auto', archive(), { file_name: 'roster.zip' });
    expect(run).toMatchObject({ kind: 'outline', state: 'done', rejected: 0 });
    expect(await enrolled(runtime)).toEqual([
      'u1 Ines DRY/A active Norrick',
      'u1 Ines NET/ active Norrick',
      'u2 Toby DRY/B withdrawn ',
      'u3 Halima NET/ withdrawn ',
    ]);
    const courses = await runtime.db('course').orderBy('code').select('code', 'title', 'starts_day', 'provisional');
    expect(
      courses.map(({ code, title, starts_day, provisional }) => [code, title, starts_day !== null, provisional]),
    ).toEqual([
      ['DRY', 'Drystone Walling', true, null],
      ['NET', 'Net Work', true, null],
    ]);
    const items = await runtime.db('item').select('external_id', 'kind', 'points', 'category', 'weight', 'required');
    expect(items).toEqual([
      { external_id: 'l1', kind: 'quiz', points: 20, category: 'Quizzes', weight: 40, required: 1 },
    ]);
    const { enrolments } = await learnerDetail(runtime, SYSTEM_VIEWER, 'u1');
    expect(enrolments.find(({ course }) => course === 'DRY')).toMatchObject({ grade: 75, group: 'A' });
    expect(await runtime.db('extension').select('excused', 'reason')).toEqual([{ excused: 1, reason: 'ill' }]);
    expect(await runtime.db('staff').whereNotNull('external_id').select('external_id', 'role')).toEqual([
      { external_id: 's1', role: 'instructor' },
    ]);
    const notes = JSON.stringify(await runtime.db('import_run').pluck('notes'));
    expect(notes).toContain('1 enrolment of other roles are left out.');
    expect(notes).toContain('1 enrolment in classes that the archive does not have are left out.');
  });

  it('changes nothing when it comes again', async () => {
    const runtime = await keep(testRuntime());
    await bringIn(runtime, 'auto', archive());
    const [before] = await runtime.db('import_run').orderBy('id', 'desc').limit(1).pluck('id');
    await bringIn(runtime, 'auto', archive());
    const again = await runtime.db('import_run').where('id', '>', before).select('kind', 'accepted', 'rejected');
    expect(again.map(({ accepted, rejected }) => [accepted, rejected])).toEqual(again.map(() => [0, 0]));
  });

  it('of version 1.1, with fewer files and columns, is read as well', async () => {
    const runtime = await keep(testRuntime());
    const users =
      'sourcedId,status,dateLastModified,enabledUser,orgSourcedIds,role,username,userIds,givenName,familyName,middleName,identifier,email,sms,phone,agentSourcedIds,grades,password\nu1,,,true,"o2,o1",student,ines,,Ines,Marrow,,,,,,,,\nu2,,,true,o1,student,t,,,Quill,,,,,,,,\n';
    const { orgs, classes, enrollments, courses } = FILES;
    await bringIn(runtime, 'auto', archive({ orgs, classes, enrollments, courses, users }));
    expect(await enrolled(runtime)).toEqual([
      'u1 Ines DRY/A active Norrick',
      'u1 Ines NET/ active Norrick',
      'u2 Quill DRY/B withdrawn ',
    ]);
    expect(await runtime.db('course').orderBy('code').pluck('title')).toEqual(['Drystone Walling', 'Net Work']);
  });

  it('without the ids that everything hangs on says so', async () => {
    const runtime = await keep(testRuntime());
    await expect(bringIn(runtime, 'auto', archive({ ...FILES, users: 'name\nx\n' }))).rejects.toThrow(
      'users.csv of this OneRoster archive has no column sourcedId',
    );
  });
});

describe('everything as OneRoster', () => {
  it('is for leads, and comes back as it was', async () => {
    const runtime = await keep(smallRuntime());
    await bringIn(
      runtime,
      'results',
      'learner_id,course,item_id,submitted_at,score,points,graded_at\nL1,DRY,D2,2026-10-05T10:00:00Z,7,10,2026-10-06T10:00:00Z\nL4,DRY,D2,2026-10-05T10:00:00Z,,,\n',
    );
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    expect(() => oneRosterFile(runtime, mentor)).toThrow('Nothing was found');
    const file = await buffer(oneRosterFile(runtime, SYSTEM_VIEWER));
    const files = unzipSync(file);
    for (const [name, columns] of Object.entries(ONE_ROSTER_FILES))
      expect(strFromU8(files[`${name}.csv`]).split('\r\n')[0]).toBe(columns.join(','));
    expect(strFromU8(files['manifest.csv'])).toContain('oneroster.version,1.2');
    expect(strFromU8(files['manifest.csv'])).toContain('file.demographics,absent');
    const before = await enrolled(runtime);
    const items = await runtime.db('item').orderBy('id').select('external_id', 'title', 'removed_at');
    await bringIn(runtime, 'auto', file);
    expect(await enrolled(runtime)).toEqual(before);
    expect(await runtime.db('item').orderBy('id').select('external_id', 'title', 'removed_at')).toEqual(items);
    const elsewhere = await keep(testRuntime());
    await bringIn(elsewhere, 'auto', file);
    expect((await enrolled(elsewhere)).map((line) => line.split(' ').slice(0, 3).join(' '))).toEqual(
      before.map((line) => line.split(' ').slice(0, 3).join(' ')),
    );
    const grade = async (at: TestRuntime) =>
      (await learnerDetail(at, SYSTEM_VIEWER, 'L1')).enrolments.map(({ course, grade: own }) => [course, own]);
    expect(await grade(elsewhere)).toEqual(await grade(runtime));
  });
});
