/** Reports that come ready: each is opened, changed and kept like any other. */
import type { ReportDefinition } from '@/core/reports/definition';

export interface ReadyReport {
  name: string;
  /** What it is for, in one sentence. */
  says: string;
  definition: ReportDefinition;
}

/** The one that a learner's page opens. */
export const WHOLE_LEARNER = 'one-learner-whole';

export const READY_REPORTS: Readonly<Record<string, ReadyReport>> = {
  'who-is-quiet': {
    name: 'Who is quiet, with numbers to call',
    says: 'Everybody without access for 7 days or more, the longest first.',
    definition: {
      whose: { filter: { quiet: '7', sort: '-days_quiet' } },
      per: 'learner',
      columns: ['name', 'phone', 'email', 'organisation', 'courses', 'last_access', 'days_quiet', 'last_contact'],
      for: 'staff',
    },
  },
  'missing-and-late': {
    name: 'Missing and late work',
    says: 'Each assignment that is overdue or came late, by learner and item.',
    definition: {
      whose: {},
      per: 'item',
      only: 'missing_or_late',
      columns: ['name', 'course', 'group', 'item', 'due_at', 'due_state', 'submitted_at', 'days_late'],
      for: 'staff',
    },
  },
  'attendance-by-session': {
    name: 'Attendance by session',
    says: 'How each session of the last 28 days went for each learner.',
    definition: {
      whose: {},
      per: 'session',
      only: 'held',
      period: '28-days',
      columns: [
        'name',
        'course',
        'group',
        'starts_at',
        'session',
        'outcome',
        'mark',
        'session_minutes',
        'session_share',
      ],
      for: 'staff',
    },
  },
  'standing-of-a-course': {
    name: 'Standing of a course',
    says: 'Where everybody stands, with the course’s average beside each figure.',
    definition: {
      whose: {},
      per: 'enrolment',
      averages: 'course',
      columns: [
        'name',
        'course',
        'group',
        'progress',
        'behind',
        'on_graded_work',
        'overdue',
        'attendance_rate',
        'last_access',
      ],
      for: 'staff',
    },
  },
  'an-organisation': {
    name: 'An organisation’s people',
    says: 'Not started, under way, completed or certified: for a partner organisation.',
    definition: {
      whose: { filter: { status: 'all', sort: 'organisation' } },
      per: 'enrolment',
      columns: [
        'organisation',
        'name',
        'course_title',
        'course_status',
        'progress',
        'attendance_rate',
        'enrolled_on',
        'completed_on',
        'ended_on',
      ],
      for: 'outside',
    },
  },
  [WHOLE_LEARNER]: {
    name: 'One learner whole',
    says: 'All courses of a learner: what is done and left, work due, scores beside the average, attendance and pace.',
    definition: {
      whose: { filter: { status: 'all' } },
      per: 'enrolment',
      averages: 'course',
      columns: [
        'name',
        'organisation',
        'course_title',
        'course_status',
        'progress',
        'on_graded_work',
        'attendance_rate',
        'pace',
        'work_due_list',
        'score_list',
        'left_list',
        'session_list',
        'done_list',
      ],
      for: 'outside',
    },
  },
  'end-of-term': {
    name: 'End of term',
    says: 'Who completed and who is certified, with grade and attendance.',
    definition: {
      whose: { filter: { status: 'all' } },
      per: 'enrolment',
      columns: [
        'name',
        'organisation',
        'course',
        'course_status',
        'completed_on',
        'of_whole_course',
        'grade',
        'attendance_rate',
        'ended_on',
      ],
      for: 'outside',
    },
  },
  'what-was-done': {
    name: 'What was done, and who came back',
    says: 'Each contact of the last 28 days, by learner, and what came of it.',
    definition: {
      whose: { filter: { status: 'all' } },
      per: 'learner',
      only: 'contacted',
      period: '28-days',
      columns: [
        'name',
        'courses',
        'drift',
        'band',
        'contacts',
        'contacted_by',
        'contact_list',
        'answered',
        'came_back',
      ],
      for: 'staff',
    },
  },
};
