/** Partner organisations: how far their people are, and who of them needs somebody now. */
import { IsOptional } from 'class-validator';
import { organisationCounts, organisationsOfLearners, type OrganisationCounts } from '@/data/people/organisations';
import { caseload } from '@/data/people/caseload';
import type { Viewer } from '@/data/scope';
import { attendanceRates } from '@/data/sessions/attendance-rates';
import { readInput, type Values } from '../request/input';
import { sortsOf, valueOf, type List } from '../request/list';
import { pageInOrder, SortedBy } from '../request/list-query';
import { SegmentQuery } from '../request/segment-query';
import { openDriftView } from '../request/view';
import type { Runtime } from '../runtime';

export interface OrganisationRow extends OrganisationCounts {
  /** Σ credit / counted marks, 0–1; null where nothing counted. */
  attendance: number | null;
  /** People with an active enrolment by the band of their drift. */
  bands: { on_course: number; slipping: number; adrift: number; no_reading: number };
}

const BANDS = ['on_course', 'slipping', 'adrift'] as const;
const round = (value: number | null) => (value === null ? null : Math.round(value * 1e5) / 1e5);

/** A column of a count: sorted by it, and given under its name. */
const count = (title: string, name: Exclude<keyof OrganisationCounts, 'id' | 'name'>) => ({
  title,
  sort: name,
  value: (row: OrganisationRow) => row[name],
  figures: { [name]: (row: OrganisationRow) => row[name] },
});

const COLUMNS = {
  organisation: {
    title: 'Organisation',
    sort: 'name',
    isKey: true,
    figures: { organisation: ({ name }: OrganisationRow) => name },
  },
  people: count('People', 'people'),
  courses: count('Courses', 'courses'),
  not_started: count('Not started', 'not_started'),
  under_way: count('Under way', 'under_way'),
  completed: count('Completed', 'completed'),
  certified: count('Certified', 'certified'),
  ended: count('Ended without completing', 'ended'),
  attendance: {
    title: 'Attendance',
    sort: 'attendance',
    value: ({ attendance }: OrganisationRow) => attendance,
    figures: { attendance_rate: ({ attendance }: OrganisationRow) => round(attendance) },
  },
  bands: {
    title: 'Drift',
    sort: 'adrift',
    value: ({ bands }: OrganisationRow) => bands.adrift,
    figures: { bands: ({ bands }: OrganisationRow) => bands },
  },
} as const;

const SORTS = sortsOf(COLUMNS);

class OrganisationsQuery extends SegmentQuery {
  @IsOptional()
  @SortedBy(SORTS)
  sort?: string;
}

/** @throws InvalidInput, NotFound */
export async function organisations(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(OrganisationsQuery, values, runtime.zone);
  const { course, group, organisation, caseload: part, sort = 'name' } = query;
  const { db, zone } = runtime;
  const view = await openDriftView(runtime, viewer, { course, group, organisation, caseload: part });
  const [counts, attendance, people] = await Promise.all([
    organisationCounts(db, view),
    attendanceRates(db, view, 'organisation', 'all'),
    caseload(db, view),
  ]);
  const of = await organisationsOfLearners(
    db,
    people.map(({ learnerId }) => learnerId),
  );
  const bands = new Map<number, OrganisationRow['bands']>();
  for (const { learnerId, band } of people) {
    const id = of.get(learnerId);
    if (id === undefined) continue;
    const own = bands.get(id) ?? { on_course: 0, slipping: 0, adrift: 0, no_reading: 0 };
    bands.set(id, own);
    own[band === null ? 'no_reading' : BANDS[band]] += 1;
  }
  const all = counts.map((row): OrganisationRow => ({
    ...row,
    attendance: attendance.get(row.id) ?? null,
    bands: bands.get(row.id) ?? { on_course: 0, slipping: 0, adrift: 0, no_reading: 0 },
  }));
  const down = sort.startsWith('-');
  if (sort.replace('-', '') === 'name') {
    if (down) all.reverse();
  } else {
    const value = valueOf<OrganisationRow>(COLUMNS, sort);
    all.sort((a, b) => {
      const [x, y] = [value(a), value(b)];
      // Whoever has no figure stands last, whichever way it is sorted.
      if (x === null || y === null) return Number(x === null) - Number(y === null);
      return down ? y - x : x - y;
    });
  }
  const { rows, next } = pageInOrder(all, query, ({ id }) => id);
  return { query, view, rows, all, total: all.length, next, now: view.now, zone };
}

export const ORGANISATIONS = {
  name: 'organisations',
  path: '/organisations',
  showsDrift: true,
  query: OrganisationsQuery,
  columns: COLUMNS,
  read: organisations,
} satisfies List<OrganisationRow>;
