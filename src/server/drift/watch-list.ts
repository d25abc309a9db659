/** The Watch and everybody's drift, as the API and files give them. */
import { IsIn, IsOptional } from 'class-validator';
import { bandWord } from '@/core/drift/bands';
import { PARTS, PART_WORDS, type Part } from '@/core/drift/order';
import { sayWhole } from '@/core/drift/sentences';
import type { Person } from '@/core/contact/person';
import { dateOfDay } from '@/core/time/zone';
import { readExplanation, type Explanation } from '@/data/drift/drift';
import { driftOf, explanationsOf, type DriftRow } from '@/data/drift/readings';
import type { Viewer } from '@/data/scope';
import { isoOrNull, score } from '../request/values';
import { AsDay, readInput, type Values } from '../request/input';
import { Filter, type List } from '../request/list';
import { SortedBy, isFile, pageInOrder } from '../request/list-query';
import { SegmentQuery } from '../request/segment-query';
import { openDriftView } from '../request/view';
import { explainPeople } from '../people/people';
import type { Runtime } from '../runtime';
import { noticesOf } from './notices';
import { needOrder, type WatchRow } from './watch';

class DriftQuery extends SegmentQuery {
  @Filter({ help: 'as of the end of a past date' }) @IsOptional() @AsDay() as_of?: number;
  @IsOptional() @SortedBy(['drift', 'name']) sort?: string;
}

class WatchQuery extends SegmentQuery {
  @Filter({ help: 'as of the end of a past date' }) @IsOptional() @AsDay() as_of?: number;
  @Filter({
    help: `one part of it: ${PARTS.join(', ')}`,
    says: (part) => `On the Watch: ${PART_WORDS[part as Part] ?? part}`,
  })
  @IsOptional()
  @IsIn(PARTS, { message: `is not one of ${PARTS.join(', ')}` })
  part?: Part;
}

/** Somebody on the Watch, explained. */
export interface WatchEntry {
  row: WatchRow;
  person: Person;
}

const DETAIL = { wakeDays: 1, visits: 0, contacts: 1, status: 'active' } as const;
/** People explained at once: a file holds everybody. */
const AT_ONCE = 500;

/** The Watch in its order, part by part. @throws InvalidInput, NotFound */
async function watch(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(WatchQuery, values, runtime.zone);
  const { course, group, organisation, caseload } = query;
  const view = await openDriftView(runtime, viewer, { course, group, organisation, caseload }, query.as_of);
  const everybody = await needOrder(runtime, view);
  const listed = query.part === undefined ? everybody : everybody.filter(({ part }) => part === query.part);
  const { rows: page, next } = pageInOrder(listed, query, ({ learnerId }) => learnerId);
  const rows: WatchEntry[] = [];
  for (let at = 0; at < page.length; at += AT_ONCE) {
    const some = page.slice(at, at + AT_ONCE);
    const people = await explainPeople(
      runtime,
      view,
      some.map(({ learnerId }) => learnerId),
      DETAIL,
    );
    const byId = new Map(people.map((person) => [person.id, person]));
    rows.push(
      ...some.flatMap((row) => {
        const person = byId.get(row.learnerId);
        return person ? [{ row, person }] : [];
      }),
    );
  }
  return { query, rows, total: listed.length, next: isFile(query) ? null : next, now: view.now, zone: runtime.zone };
}

const difference = (now: number | null, before: number | null) =>
  now === null || before === null ? null : score(now - before);

const reasonsOf = ({ person: { enrolments } }: WatchEntry) =>
  enrolments.flatMap(({ course, reasons }) =>
    reasons.map(({ factor, points, whole }) => ({ course, factor, points, says: whole })),
  );

export const WATCH = {
  name: 'watch',
  path: '/watch',
  showsDrift: true,
  query: WatchQuery,
  columns: {
    of: {
      title: 'Learner',
      isKey: true,
      figures: { learner_id: ({ person }) => person.learnerId, name: ({ person }) => person.name },
    },
    part: { title: 'Part', figures: { part: ({ row }) => row.part } },
    drift: {
      title: 'Drift',
      figures: {
        drift: ({ row }) => score(row.score),
        band: ({ row }) => bandWord(row.band),
        rise: ({ row }) => difference(row.score, row.weekAgo),
      },
    },
    quiet: { title: 'Quiet', figures: { days_quiet: ({ person }) => person.daysQuiet } },
    contact: {
      title: 'Last contact',
      figures: { last_contact: ({ person }) => isoOrNull(person.contacts[0]?.at ?? null) },
    },
    reasons: { title: 'Reasons', figures: { reasons: reasonsOf } },
  },
  spread: {
    omits: ['reasons'],
    of: (entry) => ({
      reasons: reasonsOf(entry)
        .filter(({ points }) => points > 0)
        .map(({ says, points }) => `${points}: ${says}`)
        .join('; '),
    }),
  },
  read: watch,
  async beside(runtime, viewer, values) {
    const { course, group, organisation, caseload, as_of } = readInput(WatchQuery, values, runtime.zone);
    const view = await openDriftView(runtime, viewer, { course, group, organisation, caseload }, as_of);
    return {
      notices: (await noticesOf(runtime, view)).map(({ course: code, what, kind, since, says }) => ({
        course: code,
        what,
        kind,
        since,
        says,
      })),
    };
  },
} satisfies List<WatchEntry>;

/** An enrolment's reading, explained. */
export interface DriftEntry {
  row: DriftRow;
  explanation: Explanation;
}

/** Everybody's drift, each enrolment with its reasons. @throws InvalidInput, NotFound */
async function drift(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(DriftQuery, values, runtime.zone);
  const { course, group, organisation, caseload, sort = '-drift' } = query;
  const view = await openDriftView(runtime, viewer, { course, group, organisation, caseload }, query.as_of);
  const all = await driftOf(runtime.db, view, sort as 'drift' | '-drift' | 'name' | '-name');
  const { rows: page, next } = pageInOrder(all, query, ({ id }) => id);
  const explanations = await explanationsOf(
    runtime.db,
    page.map(({ id }) => id),
    view.readingDay,
  );
  const rows = page.map((row): DriftEntry => ({ row, explanation: explanations.get(row.id) ?? readExplanation(null) }));
  return { query, rows, total: all.length, next: isFile(query) ? null : next, now: view.now, zone: runtime.zone };
}

const explained = ({ explanation }: DriftEntry) =>
  explanation.reasons.map(({ factor, value, points, says }) => ({ factor, value, points, says: sayWhole(says) }));

export const DRIFT = {
  name: 'drift',
  path: '/watch',
  showsDrift: true,
  query: DriftQuery,
  columns: {
    of: {
      title: 'Learner',
      isKey: true,
      figures: {
        learner_id: ({ row }) => row.learner_id,
        name: ({ row }) => row.name,
        course: ({ row }) => row.course,
      },
    },
    drift: {
      title: 'Drift',
      sort: 'drift',
      figures: { drift: ({ row }) => score(row.score), band: ({ row }) => bandWord(row.band) },
    },
    judged: {
      title: 'Judged by',
      figures: {
        judged_by: ({ explanation }) => explanation.reasons.length,
        judged_of: ({ explanation }) => explanation.reasons.length + explanation.notCounted.length,
        stood_on: ({ explanation }) => (explanation.stoodOn === undefined ? null : dateOfDay(explanation.stoodOn)),
      },
    },
    why: { title: 'No reading', figures: { no_reading: ({ explanation }) => explanation.without ?? null } },
    reasons: { title: 'Reasons', figures: { reasons: explained } },
  },
  spread: {
    omits: ['reasons'],
    of: (entry) => ({
      reasons: explained(entry)
        .filter(({ points }) => points > 0)
        .map(({ says, points }) => `${Math.round(points)}: ${says}`)
        .join('; '),
    }),
  },
  read: drift,
} satisfies List<DriftEntry>;
