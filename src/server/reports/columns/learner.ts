/** Columns of a learner. In a row for a course, those of access, drift and work are of that course. */
import { bandWord } from '@/core/drift/bands';
import { sayWhole } from '@/core/drift/sentences';
import { daysQuiet } from '@/core/access/last-access';
import { CALL_OUTCOMES } from '@/core/contact/call';
import type { ContactShown } from '@/core/contact/person';
import { fullName } from '@/core/people/name';
import { minutes, score } from '../../request/values';
import type { ReportColumn, ReportRow } from '../row';

const lastAt = ({ learner, inCourse }: ReportRow) => (inCourse === null ? learner.last_at : inCourse.enrolment.last_at);
const CHANNELS: Record<ContactShown['kind'], string> = { email: 'e-mail', sms: 'text message', call: 'call' };

export const LEARNER_COLUMNS = [
  {
    name: 'learner_id',
    title: 'Id',
    kind: 'text',
    says: 'The learner’s id at the source.',
    per: 'learner',
    leaves: true,
    of: ({ learner }) => learner.learner_id,
  },
  {
    name: 'name',
    title: 'Learner',
    kind: 'text',
    says: 'Given and family name.',
    per: 'learner',
    leaves: true,
    of: ({ learner }) => fullName(learner),
  },
  {
    name: 'given_name',
    title: 'Given name',
    kind: 'text',
    says: 'The given name alone.',
    per: 'learner',
    leaves: true,
    of: ({ learner }) => learner.given_name,
  },
  {
    name: 'family_name',
    title: 'Family name',
    kind: 'text',
    says: 'The family name alone.',
    per: 'learner',
    leaves: true,
    of: ({ learner }) => learner.family_name,
  },
  {
    name: 'email',
    title: 'E-mail',
    kind: 'text',
    says: 'The learner’s e-mail address.',
    per: 'learner',
    leaves: false,
    of: ({ learner }) => learner.email,
  },
  {
    name: 'phone',
    title: 'Phone',
    kind: 'text',
    says: 'The number to call.',
    per: 'learner',
    leaves: false,
    of: ({ learner }) => learner.phone,
  },
  {
    name: 'organisation',
    title: 'Organisation',
    kind: 'text',
    says: 'The partner organisation; empty for whoever learns on their own.',
    per: 'learner',
    leaves: true,
    of: ({ learner }) => learner.organisation,
  },
  {
    name: 'courses',
    title: 'Courses',
    kind: 'texts',
    says: 'Codes of the learner’s courses, as far as they are in view.',
    per: 'learner',
    leaves: true,
    of: ({ learner }) => learner.courses,
  },
  {
    name: 'last_access',
    title: 'Last access',
    kind: 'instant',
    says: 'When the log saw them last.',
    per: 'learner',
    leaves: true,
    of: lastAt,
  },
  {
    name: 'days_quiet',
    title: 'Days quiet',
    kind: 'days',
    says: 'Whole days since the last access; empty for who was never there.',
    per: 'learner',
    leaves: true,
    of: (row, { now, zone }) => daysQuiet(lastAt(row), now, zone),
  },
  {
    name: 'minutes_online',
    title: 'Time online',
    kind: 'minutes',
    says: 'An estimate from visits: all the time there was.',
    per: 'learner',
    leaves: true,
    of: ({ learner, inCourse }) => minutes(inCourse === null ? learner.ms : inCourse.enrolment.ms),
    averageOf: 'minutes',
  },
  {
    name: 'minutes_in_period',
    title: 'Time online in the period',
    kind: 'minutes',
    says: 'The same of the report’s days alone.',
    per: 'learner',
    leaves: true,
    needs: ['access'],
    of: ({ access }) => minutes(access?.ms ?? 0),
  },
  {
    name: 'days_active',
    title: 'Days active',
    kind: 'count',
    says: 'Days of the report’s period with any access.',
    per: 'learner',
    leaves: true,
    needs: ['access'],
    of: ({ access }) => access?.days ?? 0,
  },
  {
    name: 'events',
    title: 'Events',
    kind: 'count',
    says: 'Lines of the access log in the report’s period.',
    per: 'learner',
    leaves: false,
    needs: ['access'],
    of: ({ access }) => access?.events ?? 0,
  },
  {
    name: 'drift',
    title: 'Drift',
    kind: 'number',
    says: 'How far off course they are, 0 to 100; empty where there is no reading.',
    per: 'learner',
    leaves: false,
    of: ({ learner, inCourse }) => score(inCourse === null ? learner.score : inCourse.enrolment.score),
  },
  {
    name: 'band',
    title: 'Band',
    kind: 'text',
    says: 'On course, slipping, adrift, or no reading.',
    per: 'learner',
    leaves: false,
    of: ({ learner, inCourse }) => bandWord(inCourse === null ? learner.band : inCourse.enrolment.band),
  },
  {
    name: 'contacts',
    title: 'Contacts',
    kind: 'count',
    says: 'Messages and calls to them in the report’s period, by anybody.',
    per: 'learner',
    leaves: false,
    needs: ['contacts'],
    of: ({ contacts }) => contacts.length,
  },
  {
    name: 'last_contact',
    title: 'Last contact',
    kind: 'instant',
    says: 'When somebody last wrote or called.',
    per: 'learner',
    leaves: false,
    of: ({ learner }) => learner.contact_at,
  },
  {
    name: 'contacted_by',
    title: 'Contacted by',
    kind: 'texts',
    says: 'Who wrote or called in the report’s period.',
    per: 'learner',
    leaves: false,
    needs: ['contacts'],
    of: ({ contacts }) => [...new Set(contacts.map(({ by }) => by))],
  },
  {
    name: 'answered',
    title: 'Answered',
    kind: 'flag',
    says: 'Did they answer any of those contacts?',
    per: 'learner',
    leaves: false,
    needs: ['contacts'],
    of: ({ contacts }) => (contacts.length === 0 ? null : contacts.some(({ answeredAt }) => answeredAt !== null)),
  },
  {
    name: 'came_back',
    title: 'Came back',
    kind: 'instant',
    says: 'The first return within 7 days of a contact after 3 days’ quiet or more; empty for none.',
    per: 'learner',
    leaves: false,
    needs: ['contacts'],
    of: ({ contacts }) =>
      contacts.flatMap(({ cameBack }) => (cameBack === null ? [] : [cameBack])).sort((a, b) => a - b)[0] ?? null,
  },
  {
    name: 'contact_list',
    title: 'What was done',
    kind: 'table',
    says: 'Each contact of the period: when, how, by whom and what came of it.',
    per: 'learner',
    leaves: false,
    needs: ['contacts'],
    of: ({ contacts }) => ({
      heads: [
        { name: 'at', title: 'When', kind: 'instant' },
        { name: 'how', title: 'How', kind: 'text' },
        { name: 'by', title: 'By', kind: 'text' },
        { name: 'came_of_it', title: 'What came of it', kind: 'text' },
      ],
      rows: contacts.map((contact) => [
        contact.at,
        CHANNELS[contact.kind],
        contact.by,
        [
          contact.outcome === null ? '' : CALL_OUTCOMES[contact.outcome].says,
          contact.answeredAt === null ? '' : 'answered',
          contact.cameBack === null ? '' : 'came back',
        ]
          .filter(Boolean)
          .join(', ') || null,
      ]),
    }),
  },
] as const satisfies readonly ReportColumn[];

/** Why drift is what it is: of a row with an enrolment. */
export function reasonsOf({ inCourse }: ReportRow): string[] {
  return (inCourse?.enrolment.explanation.reasons ?? []).map(({ says }) => sayWhole(says));
}
