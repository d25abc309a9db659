/** Erasing somebody of whom there is something everywhere, and then looking through every file for what was theirs. */
import { createHash, randomUUID } from 'node:crypto';
import { copyFileSync, mkdirSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { DAY } from '@/core/time/zone';
import { tablesMoved } from '@/data/people/merge';
import { TREATMENT } from '@/data/privacy/erase';
import { rawTransaction, withRaw } from '@/data/db';
import { storeStatements } from '@/data/feed/xapi/statements';
import type { Viewer } from '@/data/scope';
import { logCall, saveNote } from '../contact/contact';
import { makeFlare, setFlareMail } from '../contact/flares';
import { promise } from '../contact/follow-ups';
import { sendDraft, startDraft } from '../contact/write';
import { takeMail } from '../contact/inbound';
import { recalculate } from '../drift/recalculate';
import { makeCaseload } from '../people/caseloads';
import { giveCertificate } from '../people/certificates';
import { learnerList } from '../people/learner-list';
import { makeReport } from '../reports/kept';
import { saveView } from '../people/saved-views';
import { InvalidInput, NotFound } from '../request/input';
import { openDriftView } from '../request/view';
import { bringIn, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { noteBackup } from '../backup/made';
import { eraseAgain, markOf, noteMark } from './erased-marks';
import { askErasure, eraseDue, erasureAnswers, takeBackErasure } from './erasing';

/** What is hers and stands nowhere else. */
const HERS = {
  id: 'zq-77123',
  given: 'Zephyrinequa',
  family: 'Quillwortham',
  email: 'zeph.quill@private.example',
  phone: '+44 1632 960 777',
  contact: 'Bartholomewine Quillwortham',
  contactMail: 'bart.quill@private.example',
  address: '203.0.113.77',
};
/** Words that stand in a text of hers, or about her. */
const WORD = 'zyzzogetonword';
const SUM = createHash('sha1').update(`mailto:${HERS.email}`).digest('hex');

let runtime: TestRuntime;
let lead: Viewer;
let person: number;

const everyWord = () => [...Object.values(HERS), WORD, SUM].filter((word) => word !== 'Bartholomewine Quillwortham');

/** Every file of the data folder in which a word stands, with the word. */
function whereLeft(words: readonly string[] = everyWord()): string[] {
  const root = runtime.settings.dataDir;
  const files = readdirSync(root, { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile());
  return files.flatMap((entry) => {
    const bytes = readFileSync(join(entry.parentPath, entry.name));
    const small = Buffer.from(bytes.toString('latin1').toLowerCase(), 'latin1');
    return words
      .filter((word) => bytes.includes(Buffer.from(word)) || small.includes(Buffer.from(word.toLowerCase())))
      .map((word) => `${entry.name}: ${word}`);
  });
}

beforeEach(async () => {
  runtime = await smallRuntime(['2026-11-20T10:00:00Z,L1,DRY,D1,opened']);
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  const { id, given, family, email, phone } = HERS;
  await bringIn(
    runtime,
    'roster',
    `learner_id,given_name,family_name,email,phone,organisation,course,group,enrolled_on,status\n${id},${given},${family},${email},${phone},Norrick,DRY,A,2026-09-28,active\n`,
  );
  person = (await runtime.db('learner').where('external_id', id).first('id'))!.id;
});
afterEach(() => runtime.close());

/** Something of hers in everything that there is. */
async function fillEverything(): Promise<void> {
  const { id, given, family, email } = HERS;
  const bring = (kind: string, text: string) => bringIn(runtime, kind, text);
  await bring(
    'access-log',
    `time,learner_id,course,item_id,action,address\n2026-11-20T10:00:00Z,${id},DRY,D1,opened,${HERS.address}\n2026-11-20T10:01:00Z,${id},NOWHERE,X,opened,${HERS.address}\n2026-11-20T10:02:00Z,L1,NOWHERE,X,opened,\n`,
  );
  await bring(
    'contacts',
    `learner_id,name,relation,email,may_receive\n${id},${HERS.contact},family,${HERS.contactMail},yes\n`,
  );
  await bring(
    'posts',
    `time,learner_id,course,item_id,text,post_id\n2026-11-20T10:00:00Z,${id},DRY,,I am ${WORD} today,p1\n2026-11-21T10:00:00Z,L1,DRY,,Thank you ${given} ${family},p2\n`,
  );
  await bring(
    'survey-answers',
    `survey,asked_at,learner_id,course,question,kind,answer\nHalf,2026-11-02T10:00:00Z,${id},DRY,Pace?,scale,4\nHalf,2026-11-02T10:00:00Z,${id},DRY,Words?,text,${WORD}\n`,
  );
  await bring(
    'results',
    `learner_id,course,item_id,submitted_at,score,points,graded_at,feedback\n${id},DRY,D2,2026-11-20T10:00:00Z,5,10,2026-11-21T10:00:00Z,${WORD}\n`,
  );
  await bring(
    'responses',
    `learner_id,course,item_id,question_id,question,answer,score,points\n${id},DRY,D2,q1,What?,${WORD},1,1\n`,
  );
  await bring(
    'sessions',
    'course,group,session_id,title,starts_at,ends_at,mode\nDRY,A,S1,Walls,2026-11-20T10:00:00Z,2026-11-20T11:00:00Z,online\n',
  );
  await bring('marks', `session_id,learner_id,mark,remark\nS1,${id},present,${WORD}\n`);
  const view = await openDriftView(runtime, lead);
  await logCall(runtime, view, person, { outcome: 'spoke', remark: WORD });
  await saveNote(runtime, lead, person, { body: `${WORD} of ${given}` });
  const other = (await runtime.db('learner').where('external_id', 'L1').first('id'))!.id;
  await saveNote(runtime, lead, other, { body: `Sits beside ${family}, ${given} (${email})` });
  await promise(runtime, view, [person], { due: '2026-12-20', reason: WORD });
  for (const ids of [[person], [person, other]]) {
    const draft = await startDraft(runtime, view, ids);
    const text = { subject: WORD, body: ids.length === 1 ? `${WORD} {{name}}` : 'Hello {{name}}' };
    const sent = await sendDraft(runtime, view, draft, { ...text, subject: 'Hello' }, [String(person), String(other)]);
    expect(sent.outcome).toBe('queued');
  }
  const message = (await runtime.db('message').where('learner_id', person).first('message_id'))!.message_id;
  const mail = `From: ${email}\r\nSubject: ${WORD}\r\nMessage-ID: <a@private.example>\r\nIn-Reply-To: <${message}>\r\n\r\n${WORD}`;
  await takeMail(runtime, Buffer.from(mail));
  const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
  await setFlareMail(runtime, mentor, true);
  await makeFlare(runtime, lead, { learner_id: id, reason: `${WORD} again` });
  await makeCaseload(runtime, lead, { name: 'Club', learners: [id], rule: { q: `${given} ${family}` } });
  await saveView(runtime, lead, { name: 'Hers', query: `q=${encodeURIComponent(email)}&learner=${id}` });
  await makeReport(runtime, lead, {
    name: 'Hers',
    per: 'learner',
    columns: ['name'],
    for: 'staff',
    whose: { learners: [id, 'L1'] },
  });
  await runtime
    .db('enrolment_progress')
    .where('enrolment_id', '>', 0)
    .update({ completed_at: Date.parse('2026-11-20') });
  await runtime.db('enrolment').where('learner_id', person).update({ status: 'completed', ended_day: 20_777 });
  await giveCertificate(runtime, lead, id, 'DRY').catch(() => undefined);
  const [source] = await runtime.db('source').insert({ name: 'live' }).returning('id');
  const actors = [
    { mbox: `mailto:${email.toUpperCase().replace('MAILTO', 'mailto')}` },
    { mbox_sha1sum: SUM },
    { account: { homePage: 'https://campus.example', name: id } },
  ];
  const statements = actors.map((actor) => ({
    uuid: randomUUID(),
    body: {
      actor: { ...actor, name: `${given} ${family}` },
      verb: { id: 'https://verbs.example/answered' },
      object: { id: 'https://campus.example/D1' },
      result: { response: WORD },
    },
  }));
  await rawTransaction(runtime.db, (raw) =>
    storeStatements(raw, statements.map(({ uuid, body }) => ({ uuid, body: { ...body, id: uuid } })) as never, {
      sourceId: source.id,
      zone: runtime.zone,
      now: runtime.clock.now(),
    }),
  );
  // Files that lie about: taken, stopped, waiting, made.
  const folder = (name: string) => {
    const path = join(runtime.settings.dataDir, name);
    mkdirSync(path, { recursive: true });
    return path;
  };
  writeFileSync(
    join(folder('drop/lms/taken'), 'roster.csv'),
    `learner_id,name\n${id},"${family},\n ${given}"\nL1,Ines Marrow\n`,
  );
  writeFileSync(
    join(folder('drop/lms'), 'book.xlsx'),
    Buffer.concat([Buffer.from('PK\u0003\u0004\0'), Buffer.from(email)]),
  );
  writeFileSync(join(folder('incoming'), 'left'), `${email};x\nl1@learner.example;y\n`);
  writeFileSync(join(folder('reports'), '7'), `%PDF ${given} ${family}`);
  await recalculate(runtime);
}

const passDays = (days: number) =>
  runtime.setNow(new Date(Date.parse('2026-11-24T09:10:00Z') + days * DAY).toISOString());
const REASON = { reason: `She asked for it, ${WORD}` };

describe('erasing somebody', () => {
  it('leaves not one byte of theirs in any file, and what counts without them', async () => {
    await fillEverything();
    const before = await runtime.db('event').count('* as n');
    const everything = whereLeft();
    for (const word of everyWord()) expect([word, everything.some((one) => one.endsWith(word))]).toEqual([word, true]);
    await askErasure(runtime, lead, HERS.id, REASON);
    passDays(14);
    expect(await eraseDue(runtime)).toBe(1);
    await recalculate(runtime);
    expect(whereLeft()).toEqual([]);
    expect(await runtime.db('event').count('* as n')).toEqual(before);
    const row = await runtime.db('learner').where('id', person).first();
    expect(row).toMatchObject({ family_name: 'somebody erased', given_name: '', email: null, phone: null });
    expect(await runtime.db('post').where('learner_id', person)).toMatchObject([{ text: '', words: 4 }]);
    expect(await runtime.db('attempt').where('learner_id', person)).toMatchObject([{ score: 5, feedback: null }]);
    expect(
      (await runtime.db('survey_answer').select('answer', 'learner_id')).map(({ answer }) => answer).sort(),
    ).toEqual(['', '4']);
    // What others wrote stays, without her; other people's rows stay in the files.
    expect(await runtime.db('post').where('text', 'like', 'Thank you%').first('text')).toEqual({
      text: 'Thank you somebody erased',
    });
    expect(readFileSync(join(runtime.settings.dataDir, 'drop/lms/taken/roster.csv'), 'utf8')).toBe(
      'learner_id,name\nL1,Ines Marrow\n',
    );
    expect(readFileSync(join(runtime.settings.dataDir, 'incoming', 'left'), 'utf8')).toContain('l1@learner.example');
    expect(await runtime.db('message').where({ learner_id: person, state: 'queued' })).toEqual([]);
    expect(await runtime.db('flare').where('learner_id', person).whereNull('ended_at')).toEqual([]);
    // Nothing of it is broken: whatever is asked for is answered.
    expect((await learnerList(runtime, lead, {})).rows.map(({ learner_id }) => learner_id)).not.toContain(HERS.id);
    expect(await erasureAnswers(runtime, lead)).toMatchObject([{ state: 'done', name: 'somebody erased', reason: '' }]);
    expect(await withRaw(runtime.db, (raw) => raw.pragma('integrity_check', { simple: true }))).toBe('ok');
    expect(await withRaw(runtime.db, (raw) => raw.pragma('foreign_key_check'))).toEqual([]);
  });

  it('names the backups in which they still are: those made before it was done', async () => {
    await noteBackup(runtime, '/safe/first.sqlite');
    await askErasure(runtime, lead, HERS.id, REASON);
    passDays(15);
    expect(await eraseDue(runtime)).toBe(1);
    passDays(16);
    await noteBackup(runtime, '/safe/second.sqlite');
    expect((await erasureAnswers(runtime, lead))[0].backups).toEqual([
      { file: '/safe/first.sqlite', made_at: '2026-11-24T09:10:00Z' },
    ]);
  });

  it('waits 14 days, is asked for once however often, and is taken back on the 13th', async () => {
    const until = await askErasure(runtime, lead, HERS.id, REASON);
    expect(await askErasure(runtime, lead, HERS.id, { reason: 'again' })).toBe(until);
    passDays(13);
    expect(await eraseDue(runtime)).toBe(0);
    await takeBackErasure(runtime, lead, HERS.id);
    await expect(takeBackErasure(runtime, lead, HERS.id)).rejects.toThrow(NotFound);
    passDays(30);
    expect(await eraseDue(runtime)).toBe(0);
    expect(await runtime.db('learner').where('id', person).first()).toMatchObject({ family_name: HERS.family });
    expect(await erasureAnswers(runtime, lead)).toMatchObject([{ state: 'taken_back', learner_id: HERS.id }]);
    // It can be asked for again.
    expect(await askErasure(runtime, lead, HERS.id, REASON)).toBeGreaterThan(until);
  });

  it('cannot be taken back once its days are over, and keeps who asked where it was killed at its beginning', async () => {
    await askErasure(runtime, lead, HERS.id, REASON);
    passDays(14);
    await expect(takeBackErasure(runtime, lead, HERS.id)).rejects.toThrow(NotFound);
    noteMark(runtime, markOf(runtime, HERS.id));
    expect(await eraseAgain(runtime)).toBe(1);
    expect(await erasureAnswers(runtime, lead)).toMatchObject([{ by: 'Hesper Vane', state: 'waiting' }]);
    expect(await eraseDue(runtime)).toBe(1);
  });

  it('is for leads alone, of somebody who is there, with a reason', async () => {
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    await expect(askErasure(runtime, mentor, HERS.id, REASON)).rejects.toThrow(NotFound);
    await expect(erasureAnswers(runtime, mentor)).rejects.toThrow(NotFound);
    await expect(askErasure(runtime, lead, 'nobody', REASON)).rejects.toThrow(NotFound);
    await expect(askErasure(runtime, lead, HERS.id, {})).rejects.toThrow(InvalidInput);
  });

  it('begins anew with the same id in a later roster, and keeps whoever bears the same name', async () => {
    const { id, given, family } = HERS;
    const roster = (who: string) =>
      `learner_id,given_name,family_name,email,course,group,enrolled_on,status\n${who},${given},${family},x@y.example,DRY,A,2026-09-28,active\n`;
    await bringIn(runtime, 'roster', roster('another-1'));
    await askErasure(runtime, lead, id, REASON);
    passDays(14);
    expect(await eraseDue(runtime)).toBe(1);
    expect(await runtime.db('learner').where('external_id', 'another-1').first()).toMatchObject({
      family_name: family,
    });
    await bringIn(runtime, 'roster', roster(id));
    const anew = (await runtime.db('learner').where('external_id', id).first())!;
    expect(anew.id).not.toBe(person);
    expect(await eraseAgain(runtime)).toBe(0);
    expect(await runtime.db('event').where('learner_id', anew.id)).toEqual([]);
  });

  it('leaves what somebody else has as well: an address that two share, an id that is an item', async () => {
    const { email } = HERS;
    await bringIn(
      runtime,
      'roster',
      `learner_id,given_name,family_name,email,course,enrolled_on,status\nsister-9,Odette,Quillwortham,${email},DRY,2026-09-28,active\n`,
    );
    const view = await openDriftView(runtime, lead);
    const sister = (await runtime.db('learner').where('external_id', 'sister-9').first('id'))!.id;
    const draft = await startDraft(runtime, view, [sister]);
    await sendDraft(runtime, view, draft, { subject: 'Hi', body: 'Hello' }, []);
    await askErasure(runtime, lead, HERS.id, REASON);
    passDays(14);
    await eraseDue(runtime);
    expect(await runtime.db('message').first()).toMatchObject({ state: 'queued', address: email });
    expect(await runtime.db('learner').where('id', sister).first()).toMatchObject({
      email,
      family_name: 'Quillwortham',
    });
  });

  it('is done again where a backup brings them back', async () => {
    const file = join(runtime.settings.dataDir, 'lee-shore.sqlite');
    const backup = join(runtime.settings.dataDir, 'backup');
    await withRaw(runtime.db, (raw) => raw.pragma('wal_checkpoint(TRUNCATE)'));
    copyFileSync(file, backup);
    await askErasure(runtime, lead, HERS.id, REASON);
    passDays(14);
    await eraseDue(runtime);
    // The list of marks names nobody.
    expect(whereLeft([HERS.id]).filter((one) => !one.startsWith('backup'))).toEqual([]);
    await withRaw(runtime.db, (raw) =>
      raw.exec(`ATTACH '${backup}' AS old; DELETE FROM main.erasure;
      UPDATE main.learner SET external_id = (SELECT o.external_id FROM old.learner o WHERE o.id = main.learner.id),
        family_name = (SELECT o.family_name FROM old.learner o WHERE o.id = main.learner.id); DETACH old`),
    );
    expect(await eraseAgain(runtime)).toBe(1);
    expect(await eraseAgain(runtime)).toBe(0);
    expect(await eraseDue(runtime)).toBe(1);
    expect(whereLeft([HERS.id, HERS.family]).filter((one) => !one.startsWith('backup'))).toEqual([]);
  });

  it('goes on where it was killed: after the database, only what was freed is left to do', async () => {
    await askErasure(runtime, lead, HERS.id, REASON);
    passDays(14);
    await eraseDue(runtime);
    await runtime.db('erasure').update({ done_at: null });
    expect(await eraseDue(runtime)).toBe(1);
    expect(whereLeft([HERS.family])).toEqual([]);
  });

  it('is done once where two processes come to it, and stands under the mark of the id that it had', async () => {
    await askErasure(runtime, lead, HERS.id, REASON);
    passDays(14);
    await Promise.allSettled([eraseDue(runtime), eraseDue(runtime)]);
    await eraseDue(runtime);
    const { mark, done_at } = (await runtime.db('erasure').first())!;
    expect(done_at).not.toBeNull();
    expect(mark).toBe(markOf(runtime, HERS.id));
    expect(whereLeft([HERS.family])).toEqual([]);
  });

  it('waits while a file is taken', async () => {
    await askErasure(runtime, lead, HERS.id, REASON);
    passDays(14);
    const [run] = await runtime.db('import_run').limit(1).pluck('id');
    await runtime.db('import_run').where('id', run).update({ state: 'running' });
    expect(await eraseDue(runtime)).toBe(0);
    await runtime.db('import_run').where('id', run).update({ state: 'done' });
    expect(await eraseDue(runtime)).toBe(1);
  });

  it('says of every table with a learner in it what becomes of it', async () => {
    const tables = await withRaw(runtime.db, (raw) => tablesMoved(raw));
    expect(tables.filter((table) => !Object.hasOwn(TREATMENT, table))).toEqual([]);
  });
});
