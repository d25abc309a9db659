/** What staff did in the weeks before: templates, calls, notes, promises, answers; put on record as the application does. */
import { DAY, HOUR, dateOfDay, dayOf, startOfDay } from '@/core/time/zone';
import { findLearner } from '@/data/people/learners';
import { staffByEmail, viewerOf } from '@/data/staff/staff';
import type { Viewer } from '@/data/scope';
import type { DriftView } from '@/data/view';
import { saveNote, logCall } from '@/server/contact/contact';
import { closeFollowUp, promise } from '@/server/contact/follow-ups';
import { endFlare, raiseFlare, seeFlare } from '@/server/contact/flares';
import { takeMail } from '@/server/contact/inbound';
import { saveOtherContact } from '@/server/people/other-contacts';
import { changeLearner } from '@/server/people/roster';
import type { Runtime } from '@/server/runtime';
import { saveTemplate } from '@/server/contact/templates';
import { openDriftView } from '@/server/request/view';
import type { DemoLearner } from './people';

const TEMPLATES = [
  {
    name: 'A first step',
    subject: 'A first step in {{course}}',
    body: 'Hello {{given_name}},\n\nyour place in {{course}} is waiting. The first page takes ten minutes; after that you know your way about. If anything is in the way, answer this or ring me.\n\n{{my_name}}',
    course: '',
    answers: ['back', 'help', 'call', 'left'] as const,
  },
  {
    name: 'We have not seen you',
    subject: 'How is {{course}} going?',
    body: 'Hello {{given_name}},\n\nwe last saw you on {{last_access}}. Your next step is {{next_due}}. What would help you to take it?\n\n{{my_name}}',
    course: '',
  },
  {
    name: 'Tank log due',
    subject: 'Your tank log',
    body: 'Hello {{given_name}},\n\n{{next_due}} is next in {{course}}, {{group}}. Bring your questions to the session.\n\n{{my_name}}',
    course: 'HAT',
  },
  {
    name: 'Well done',
    subject: 'Well done, {{given_name}}',
    body: 'Hello {{given_name}},\n\n{{good_news}}\n\n{{my_name}}',
    course: '',
    is_praise: 'yes',
  },
];

/** Made-up people at work who hear how a learner is doing. */
const FOREMEN = ['Orrin Teale', 'Maddie Brake', 'Col Sandrey'];

const NOTES = [
  { body: 'Works double shifts until the end of the month; evenings after nine are best.', labels: ['work'] },
  { body: 'Agreed: two short visits a week, Tuesday and Thursday.', labels: ['agreed'] },
  { body: 'Cannot open the films on the boat’s connection. Sent the pages as a file.', labels: ['technical'] },
  { body: 'Thanked me for the call. Very good work on the wall diary.', labels: ['praise'] },
];

const ANSWERS = [
  'Thank you for asking. I was at sea and had no signal. I will go on at the weekend.',
  'Could you ring me on Thursday after six?',
  'I have finished the first week now. The quiz was harder than I thought.',
];

const FLARES = [
  'Missed three sessions and answers nobody. Does anybody know how things are?',
  'Asked to leave by text message on Friday. Please speak to them before the workshop day.',
  'On nights at work from now on. Who can move them to the other group?',
];

const CALLS = [
  { outcome: 'spoke', remark: 'Will come to the next session.' },
  { outcome: 'no_answer', remark: '' },
  { outcome: 'left_message', remark: 'Spoke to a brother.' },
  { outcome: 'wrong_number', remark: '' },
  { outcome: 'met', remark: 'At the workshop day; will try twice a week.' },
];

/** The runtime with its clock at another time. */
function atTime(runtime: Runtime, at: number): Runtime {
  return { ...runtime, clock: { now: () => at, real: runtime.clock.real } };
}

/** Puts the staff's earlier work on record. */
export async function writeEarlierContacts(
  runtime: Runtime,
  emails: { mentor: string; lead: string; instructor: string },
  learners: readonly DemoLearner[],
): Promise<void> {
  const { db, clock, zone } = runtime;
  const now = clock.now();
  const today = dayOf(now, zone);
  const [mentor, lead, instructor] = await Promise.all(
    [emails.mentor, emails.lead, emails.instructor].map(async (email) =>
      viewerOf(db, (await staffByEmail(db, email))!),
    ),
  );
  for (const template of TEMPLATES) await saveTemplate(runtime, template.course ? instructor : lead, null, template);

  const morning = (daysAgo: number, index: number) =>
    startOfDay(today - daysAgo, zone) + 9 * HOUR + (index % 50) * 60_000;
  const viewAt = async (at: number): Promise<DriftView> => ({
    ...(await openDriftView(runtime, mentor)),
    readingDay: Math.min(today, dayOf(at, zone)),
  });
  const active = learners.filter((one) => one.enrolments.some((enrolment) => enrolment.status === 'active'));
  for (const [index, learner] of active.entries()) {
    const id = (await findLearner(db, mentor, learner.id)) ?? null;
    if (id === null) continue;
    const quiet = ['sudden_stop', 'slow_fader', 'never_started', 'late_starter'].includes(learner.behaviour);
    if (index % 7 === 3) {
      const { email, phone } = learner;
      await changeLearner(runtime, mentor, id, { email, phone, preferred_channel: phone ? 'sms' : 'email' });
    }
    if (index % 11 === 5) {
      const family = {
        name: `${learner.familyName} family`,
        relation: 'family',
        phone: '+44 1632 960777',
        email: `family-${learner.id.toLowerCase()}@home.example`,
        may_receive: index % 2 === 1 ? 'yes' : 'no',
      };
      await saveOtherContact(runtime, lead, id, null, family);
    }
    if (index % 6 === 4) {
      const employer = {
        name: FOREMEN[index % FOREMEN.length],
        relation: 'employer',
        email: `office-${learner.id.toLowerCase()}@work.example`,
        may_receive: 'yes',
      };
      await saveOtherContact(runtime, lead, id, null, employer);
    }
    if (index % 9 === 2) {
      const at = morning(3 + (index % 20), index);
      if (at < now) await saveNote(atTime(runtime, at), mentor, id, { ...NOTES[index % NOTES.length] });
    }
    if (quiet && index % 2 === 0) {
      const daysAgo = 2 + (index % 9);
      const at = morning(daysAgo, index);
      // Some fall due today, some are overdue, some lie ahead.
      const next = dateOfDay(Math.max(today - daysAgo, today + [0, -1, 2, 4][index % 4]));
      if (at < now) await logCall(atTime(runtime, at), await viewAt(at), id, { ...CALLS[index % CALLS.length], next });
    }
    if (index % 23 === 6) {
      const at = morning(16, index);
      const view = await viewAt(at);
      const then = atTime(runtime, at);
      const [followUp] = await promise(then, view, [id], {
        due: dateOfDay(today - 9),
        reason: 'See whether the weekend plan holds',
      });
      if (index % 2 === 0)
        await closeFollowUp(atTime(runtime, morning(9, index)), mentor, followUp, { outcome: 'came_back' });
    }
  }
  await raiseFlares(runtime, { mentor, instructor, lead }, active);
  await answer(runtime, now);
}

/** Calls to everybody around some of those who had long been quiet; the first was ended. */
async function raiseFlares(
  runtime: Runtime,
  { mentor, instructor, lead }: { mentor: Viewer; instructor: Viewer; lead: Viewer },
  active: readonly DemoLearner[],
): Promise<void> {
  const now = runtime.clock.now();
  const inHatchery = active.filter(
    ({ behaviour, enrolments }) =>
      ['sudden_stop', 'slow_fader'].includes(behaviour) &&
      enrolments.some(({ course }) => course.code === 'HAT' || course.code === 'SBE'),
  );
  for (const [index, reason] of FLARES.entries()) {
    const id = inHatchery[index] && (await findLearner(runtime.db, mentor, inHatchery[index].id));
    if (!id) continue;
    const then = atTime(runtime, now - (FLARES.length - index) * 26 * HOUR);
    const flare = await raiseFlare(then, index === 1 ? mentor : lead, id, { reason });
    if (index !== 1) await seeFlare(atTime(runtime, now - 5 * HOUR), instructor, flare);
    if (index === 0) await endFlare(runtime, mentor, flare, { outcome: 'Spoke to them: back on Monday evenings.' });
  }
}

/** Every eighth message of the weeks before was answered, a day or two later. */
async function answer(runtime: Runtime, now: number): Promise<void> {
  const sent: { id: number; message_id: string; address: string; created_at: number; from: string }[] = await runtime
    .db('message')
    .join('staff', 'staff.id', 'message.staff_id')
    .where('message.state', 'sent')
    .orderBy('message.id')
    .select('message.id', 'message_id', 'address', 'message.created_at', 'staff.email as from');
  for (const [index, { message_id, address, created_at, from }] of sent.entries()) {
    const at = created_at + DAY + (index % 3) * HOUR;
    if (index % 8 !== 1 || at > now) continue;
    const mail = [
      `From: <${address}>`,
      `To: <${from}>`,
      'Subject: Re: How is it going?',
      `Message-ID: <answer-${index}@learner.example>`,
      `In-Reply-To: <${message_id}>`,
      'Content-Type: text/plain; charset=utf-8',
      '',
      ANSWERS[index % ANSWERS.length],
      '',
    ].join('\r\n');
    await takeMail(atTime(runtime, at), Buffer.from(mail));
  }
}
