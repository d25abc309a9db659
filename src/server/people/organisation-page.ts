/** One partner organisation: how far its people are in each course, what changed this month, and who needs somebody now. */
import { groupBy } from '@/core/group-by';
import { dateOfDay, dayFromDate, dayOf } from '@/core/time/zone';
import {
  ENROLMENT_STANDS,
  placedEnrolments,
  type EnrolmentStand,
  type PlacedEnrolment,
} from '@/data/people/organisations';
import type { Viewer } from '@/data/scope';
import { needOrder } from '../drift/watch';
import { goodNews, type GoodNewsRow } from '../good-news/good-news-list';
import { NotFound } from '../request/input';
import { openDriftView } from '../request/view';
import type { Runtime } from '../runtime';
import { organisations, type OrganisationRow } from './organisations-list';
import { explainPeople } from './people';
import type { Person } from '@/core/contact/person';

/** People who need somebody, slipping or adrift and not contacted of late, that stand on the page. */
const NEEDING = 10;

interface OfCourse {
  course: string;
  title: string;
  counts: Record<EnrolmentStand, number>;
}

export interface OrganisationPage {
  row: OrganisationRow;
  courses: OfCourse[];
  /** Since the first of the month. */
  since: number;
  changed: Record<'enrolled' | 'started' | 'completed' | 'ended', PlacedEnrolment[]>;
  news: GoodNewsRow[];
  /** Who needs somebody now: the first of them, and how many in all. */
  needing: Person[];
  allNeeding: number;
  /** Those who completed a course, the last first, with the day where it is known. */
  completed: (PlacedEnrolment & { day: number | null })[];
  now: number;
}

/** @throws NotFound for an organisation none of whose people the viewer sees */
export async function organisationPage(runtime: Runtime, viewer: Viewer, name: string): Promise<OrganisationPage> {
  const { db, zone } = runtime;
  const view = await openDriftView(runtime, viewer, { organisation: name });
  const today = dayOf(view.now, zone);
  const since = dayFromDate(`${dateOfDay(today).slice(0, 7)}-01`)!;
  const [list, enrolments, order, news] = await Promise.all([
    organisations(runtime, viewer, { organisation: name }),
    placedEnrolments(db, view),
    needOrder(runtime, view),
    goodNews(runtime, viewer, { organisation: name, from: dateOfDay(since), limit: '20' }),
  ]);
  const [row] = list.rows;
  if (!row) throw new NotFound('No such organisation');
  const needing = order.filter(({ part, band }) => part === 'now' && band !== null && band > 0);
  const shown = await explainPeople(
    runtime,
    view,
    needing.slice(0, NEEDING).map(({ learnerId }) => learnerId),
    { wakeDays: 1, visits: 0, contacts: 1, status: 'active' },
  );
  const completedOn = ({ stand, completed_at, ended_day }: PlacedEnrolment) => {
    if (stand !== 'completed' && stand !== 'certified') return null;
    return completed_at === null ? ended_day : dayOf(completed_at, zone);
  };
  const isNew = (day: number | null) => day !== null && day >= since && day <= today;
  return {
    row,
    courses: [...groupBy(enrolments, ({ course }) => course)].map(([course, own]) => ({
      course,
      title: own[0].title,
      counts: Object.fromEntries(
        ENROLMENT_STANDS.map((stand) => [stand, own.filter((one) => one.stand === stand).length]),
      ) as OfCourse['counts'],
    })),
    since,
    changed: {
      enrolled: enrolments.filter((one) => isNew(one.enrolled_day)),
      started: enrolments.filter((one) => isNew(one.first_day)),
      completed: enrolments.filter((one) => isNew(completedOn(one))),
      ended: enrolments.filter((one) => one.stand === 'ended' && isNew(one.ended_day)),
    },
    news: news.rows,
    needing: needing.slice(0, NEEDING).flatMap(({ learnerId }) => shown.find(({ id }) => id === learnerId) ?? []),
    allNeeding: needing.length,
    completed: enrolments
      .filter(({ stand }) => stand === 'completed' || stand === 'certified')
      .map((one) => ({ ...one, day: completedOn(one) }))
      .sort((a, b) => (b.day ?? -Infinity) - (a.day ?? -Infinity)),
    now: view.now,
  };
}
