/** Waiting on us: handed in, and neither graded nor answered. */
import { webAddress } from '@/core/courses/web-address';
import { fullName } from '@/core/people/name';
import { dayOf } from '@/core/time/zone';
import { countOf } from '@/data/db';
import type { Viewer } from '@/data/scope';
import { toGradeInView, toGradePage, type ToGradeRow } from '@/data/work/to-grade';
import { WorkQuery } from '../completion/work-query';
import { isoOrNull } from '../request/values';
import { readInput, type Values } from '../request/input';
import type { At, List } from '../request/list';
import { isFile, limitOf, placeOf, writeCursor } from '../request/list-query';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';

/** Whole days since a hand-in. */
export function ageDays(submittedAt: number, { now, zone }: At): number {
  return Math.max(0, dayOf(now, zone) - dayOf(submittedAt, zone));
}

/** @throws InvalidInput, NotFound */
export async function toGrade(runtime: Runtime, viewer: Viewer, values: Values, withTotal = true) {
  const query = readInput(WorkQuery, values, runtime.zone);
  const { course, group, organisation, caseload } = query;
  const view = await openView(runtime, viewer, { course, group, organisation, caseload }, query.as_of);
  const place = placeOf(query);
  const limit = limitOf(query);
  const found = await toGradePage(runtime.db, view, {
    after: place === null ? null : { at: Number(place[0]), id: Number(place[1]) },
    limit: limit + 1,
  });
  const rows = found.slice(0, limit);
  const last = rows.at(-1);
  const next = found.length > limit && last && !isFile(query) ? writeCursor([last.submitted_at, last.id]) : null;
  const total = withTotal ? await countOf(toGradeInView(runtime.db, view)) : 0;
  return { query, view, rows, total, next, now: view.now, zone: runtime.zone };
}

export interface ToGradeLine {
  id: number;
  learner: number;
  learnerId: string;
  name: string;
  course: string;
  group: string | null;
  itemId: string;
  item: string;
  url: string | null;
  submittedAt: number;
  age: number;
}

export const TO_GRADE = {
  name: 'to-grade',
  path: '/courses/to-grade',
  query: WorkQuery,
  columns: {
    of: {
      title: 'Learner',
      isKey: true,
      figures: { learner_id: (row) => row.learner_id, name: (row) => fullName(row), course: (row) => row.course },
    },
    item: { title: 'Item', figures: { item_id: (row) => row.item_id, item: (row) => row.item } },
    submitted: { title: 'Handed in', figures: { submitted_at: (row) => isoOrNull(row.submitted_at) } },
    age: { title: 'Waits', figures: { age_days: (row, at) => ageDays(row.submitted_at, at) } },
    url: { title: 'Where', figures: { url: (row) => webAddress(row.url) } },
  },
  line: (row: ToGradeRow, at: At): ToGradeLine => ({
    id: row.id,
    learner: row.learner,
    learnerId: row.learner_id,
    name: fullName(row),
    course: row.course,
    group: row.group,
    itemId: row.item_id,
    item: row.item,
    url: webAddress(row.url),
    submittedAt: row.submitted_at,
    age: ageDays(row.submitted_at, at),
  }),
  read: toGrade,
} satisfies List<ToGradeRow>;
