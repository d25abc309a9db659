/** The learners and staff of the demo. Nobody here exists. */
import { dateOfDay } from '@/core/time/zone';
import type { Random } from './random';
import { BEHAVIOURS, type Behaviour } from './behaviour';
import type { DemoCourse } from './courses';

export interface DemoEnrolment {
  course: DemoCourse;
  group: string;
  enrolledDay: number;
  status: 'active' | 'withdrawn';
  endedDay: number | null;
}

export interface DemoLearner {
  id: string;
  givenName: string;
  familyName: string;
  email: string;
  phone: string;
  organisation: string;
  behaviour: Behaviour;
  enrolments: DemoEnrolment[];
  address: string;
}

const ORGANISATIONS = ['Norrick Shellfish Co-op', 'Penhallow Boatyards', 'Isle Paths Partnership', 'Carrow Tidal', ''];

/** Which partner sends people to which course, first choice first. */
const SENDS: Record<string, readonly string[]> = {
  DRY: ['Isle Paths Partnership', ''],
  HAT: ['Norrick Shellfish Co-op', ''],
  SBE: ['Penhallow Boatyards', ''],
  CPR: ['Isle Paths Partnership', ''],
  NET: ['Norrick Shellfish Co-op', 'Penhallow Boatyards'],
  TTU: ['Carrow Tidal', ''],
};

const GIVEN = [
  'Ines',
  'Tobias',
  'Halima',
  'Petra',
  'Wynn',
  'Desta',
  'Rosalind',
  'Ivo',
  'Marguerite',
  'Anouk',
  'Bram',
  'Xanthe',
  'Quentin',
  'Seren',
  'Cerys',
  'Zofia',
  'Ulf',
  'Pilar',
  'Gwen',
  'Lorcan',
  'Isolde',
  'Aine',
  'Fintan',
  'Oriel',
  'Niall',
  'Kerensa',
  'Davith',
  'Mabli',
  'Osric',
  'Yusuf',
  'Leocadia',
  'Hedda',
  'Torin',
  'Elowen',
  'Casimir',
  'Noor',
  'Béibhinn',
  'Søren',
  'Amaru',
  'Thandi',
];
const FAMILY = [
  'Marrow',
  'Quill',
  'Okoro',
  'Sandoval',
  'Calloway',
  'Abara',
  'Teague',
  'Lindqvist',
  'Foss',
  'Pellew',
  'Quarrie',
  'Ashdown',
  'Sallow',
  'Birrell',
  'Yarrow',
  'Dunmore',
  'Zeal',
  'Farrow',
  'Umber',
  'Nancarrow',
  'Trewin',
  'Vance',
  'Holloway',
  'Kettle',
  'Jardine',
  'Rook',
  'O’Dell',
  'Winterbourne',
  'Hale-Strand',
  'Oxley',
  'Brine',
  'Garrick',
  'Moorcroft',
  'Skerry',
  'Tamblyn',
];

/** A made-up name. */
export function drawName(random: Random): [given: string, family: string] {
  return [random.pick(GIVEN), random.pick(FAMILY)];
}

/** How often each behaviour occurs, in a hundred. */
const SHARES: readonly [Behaviour, number][] = [
  ['steady', 40],
  ['weekend_only', 11],
  ['night_shift', 9],
  ['front_loader', 7],
  ['slow_fader', 8],
  ['sudden_stop', 6],
  ['late_starter', 5],
  ['never_started', 4],
  ['stop_and_return', 5],
  ['session_only', 2],
  ['click_through', 3],
];

function behaviourAt(hundredth: number): Behaviour {
  let sum = 0;
  for (const [behaviour, share] of SHARES) {
    sum += share;
    if (hundredth < sum) return behaviour;
  }
  return BEHAVIOURS[0];
}

function group(random: Random, course: DemoCourse): string {
  return random.pick(course.groups);
}

function enrolment(random: Random, course: DemoCourse, today: number): DemoEnrolment {
  const late = random.chance(0.04);
  const withdrawn = random.chance(0.03);
  return {
    course,
    group: group(random, course),
    enrolledDay: late ? today - random.int(1, 12) : course.startDay - random.int(0, 10),
    status: withdrawn && !late ? 'withdrawn' : 'active',
    endedDay: withdrawn && !late ? course.startDay + random.int(14, 45) : null,
  };
}

/** About 240 learners, most in one course, some in two, one in three. */
export function demoLearners(
  random: Random,
  courses: readonly DemoCourse[],
  today: number,
  count = 240,
): DemoLearner[] {
  const learners = Array.from({ length: count }, (_, index): DemoLearner => {
    const first = courses[index % courses.length];
    const id = `L${20_417 + index * 3}`;
    const taken = [first];
    if (random.chance(0.1)) taken.push(random.pick(courses.filter((course) => course !== first)));
    return {
      id,
      givenName: index < 10 ? GIVEN[index] : random.pick(GIVEN),
      familyName: index < 10 ? FAMILY[index] : random.pick(FAMILY),
      email: random.chance(0.02) ? '' : `${id.toLowerCase()}@learner.example`,
      phone: random.chance(0.03) ? '' : `+44 1632 960${String(random.int(0, 999)).padStart(3, '0')}`,
      organisation: random.chance(0.7) ? SENDS[first.code][0] : random.pick([...SENDS[first.code], ...ORGANISATIONS]),
      behaviour: behaviourAt(random.int(0, 99)),
      enrolments: taken.map((course) => enrolment(random, course, today)),
      address: `198.51.100.${random.int(1, 254)}`,
    };
  });
  special(learners, courses, random);
  return learners;
}

/** The cases that every list has to cope with. */
function special(learners: DemoLearner[], courses: readonly DemoCourse[], random: Random) {
  const [a, b] = [learners[31], learners[44]];
  Object.assign(a, { givenName: 'Oriel', familyName: 'Kettle', organisation: 'Norrick Shellfish Co-op' });
  Object.assign(b, { givenName: 'Oriel', familyName: 'Kettle', organisation: '' });
  // One in three courses.
  learners[60].enrolments = courses.slice(0, 3).map((course) => ({
    course,
    group: group(random, course),
    enrolledDay: course.startDay - 4,
    status: 'active',
    endedDay: null,
  }));
  learners[60].behaviour = 'steady';
  // Instructor in Drystone Walling, learner in Tidal Turbine Upkeep.
  const turbine = courses.find((course) => course.code === 'TTU')!;
  Object.assign(learners[65], {
    givenName: 'Tamsin',
    familyName: 'Roe',
    email: 'tamsin.roe@saltholm.example',
    organisation: '',
    behaviour: 'steady' satisfies Behaviour,
    enrolments: [{ course: turbine, group: 'A', enrolledDay: turbine.startDay - 3, status: 'active', endedDay: null }],
  });
}

export function rosterRows(learners: readonly DemoLearner[]): string[][] {
  const heading = 'learner_id,given_name,family_name,email,phone,organisation,course,group,enrolled_on,status,ended_on';
  const rows = learners.flatMap((learner) =>
    learner.enrolments.map((e) => [
      learner.id,
      learner.givenName,
      learner.familyName,
      learner.email,
      learner.phone,
      learner.organisation,
      e.course.code,
      e.group,
      dateOfDay(e.enrolledDay),
      e.status,
      e.endedDay === null ? '' : dateOfDay(e.endedDay),
    ]),
  );
  return [heading.split(','), ...rows];
}

/** Staff with one row a scope, and who of them signs in to the demo. */
export const STAFF: readonly {
  id: string;
  name: [string, string];
  email: string;
  role: string;
  scopes: [string, string][];
  says: string | null;
}[] = [
  {
    id: 'S-01',
    name: ['Mair', 'Tolland'],
    email: 'mair.tolland@saltholm.example',
    role: 'mentor',
    says: 'mentor of groups in all six courses',
    scopes: [
      'DRY/Tue',
      'HAT/A',
      'HAT/B',
      'SBE/Thu',
      'CPR/A',
      'CPR/B',
      'NET/A',
      'NET/B',
      'TTU/A',
      'TTU/B',
      'DRY/Thu',
      'SBE/Tue',
    ].map((group) => ['group', group]),
  },
  {
    id: 'S-02',
    name: ['Jory', 'Kestle'],
    email: 'jory.kestle@saltholm.example',
    role: 'instructor',
    says: 'instructor of Hatchery Technician and Small-Boat Electrics',
    scopes: [
      ['course', 'HAT'],
      ['course', 'SBE'],
    ],
  },
  {
    id: 'S-03',
    name: ['Bryn', 'Ostler'],
    email: 'bryn.ostler@norrick.example',
    role: 'coordinator',
    says: 'coordinator at Norrick Shellfish Co-op',
    scopes: [['organisation', 'Norrick Shellfish Co-op']],
  },
  {
    id: 'S-04',
    name: ['Hesper', 'Vane'],
    email: 'hesper.vane@saltholm.example',
    role: 'lead',
    says: 'leads the programme',
    scopes: [['all', '']],
  },
  {
    id: 'S-05',
    name: ['Tamsin', 'Roe'],
    email: 'tamsin.roe@saltholm.example',
    role: 'instructor',
    says: null,
    scopes: [['course', 'DRY']],
  },
  {
    id: 'S-06',
    name: ['Aldo', 'Finch'],
    email: 'aldo.finch@saltholm.example',
    role: 'instructor',
    says: null,
    scopes: [
      ['course', 'CPR'],
      ['course', 'NET'],
      ['course', 'TTU'],
    ],
  },
];

/** Whom the stand-in for a sign-in service knows: the staff, two who are new, and an e-mail that nobody vouches for. No learner has their names. */
export function providersPeople() {
  const person = (given_name: string, family_name: string, email: string, groups: string[], email_verified = true) => ({
    given_name,
    family_name,
    email,
    email_verified,
    groups,
  });
  return [
    ...STAFF.map(({ name, email, role }) => person(...name, email, ['staff', `${role}s`])),
    person('Petra', 'Finch', 'petra.finch@saltholm.example', ['staff', 'new-mentors']),
    person('Wynn', 'Roe', 'wynn.roe@saltholm.example', ['staff', 'new-tutors']),
    person('Tobias', 'Roe', STAFF[0].email, ['guests'], false),
  ];
}

/** Courses as the stand-in for a platform with LTI has them: those who learn, with the numbers of the student records, and who teaches. */
export function platformsCourses(learners: readonly DemoLearner[], courses: readonly DemoCourse[]) {
  const role = (name: string) => [`http://purl.imsglobal.org/vocab/lis/v2/membership#${name}`];
  const staff = STAFF.filter((one) => one.role === 'mentor' || one.role === 'instructor').map(
    ({ id, name, email, role: own }) => ({
      ...{ user_id: `t-${id}`, given_name: name[0], family_name: name[1], email, status: 'Active' },
      roles: role(own === 'mentor' ? 'Mentor' : 'Instructor'),
    }),
  );
  // Somebody whom only the platform knows: one who teaches, and one who learns.
  const teacher = { user_id: 't-900', given_name: 'Isolde', family_name: 'Kestle', roles: role('Instructor') };
  const newcomer = { user_id: '901', given_name: 'Oriel', family_name: 'Finch', roles: role('Learner') };
  return courses.map((course) => ({
    ...{ id: `course-${course.code.toLowerCase()}`, label: course.code, title: course.title },
    members: [
      ...staff,
      { ...teacher, email: 'isolde.kestle@saltholm.example', status: 'Active' },
      { ...newcomer, email: 'oriel.finch@learner.example', status: 'Active' },
      ...learners.flatMap((learner) =>
        learner.enrolments
          .filter((one) => one.course === course)
          .map(({ status }) => ({
            ...{ user_id: learner.id.slice(1), lis_person_sourcedid: learner.id, email: learner.email },
            ...{ given_name: learner.givenName, family_name: learner.familyName, roles: role('Learner') },
            status: status === 'active' ? 'Active' : 'Inactive',
          })),
      ),
    ],
  }));
}

export function staffRows(): string[][] {
  const heading = 'staff_id,given_name,family_name,email,role,scope_kind,scope';
  const rows = STAFF.flatMap(({ id, name, email, role, scopes }) =>
    scopes.map(([kind, scope]) => [id, name[0], name[1], email, role, kind, scope]),
  );
  return [heading.split(','), ...rows];
}
