/** The history of grades: every change, the first grade too. */
import { IsOptional, MaxLength } from 'class-validator';
import { fullName } from '@/core/people/name';
import { countGradeChanges, gradeChanges, type GradeChangeRow } from '@/data/grades/changes';
import { findLearner } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { WorkQuery } from '../completion/work-query';
import { isoOrNull } from '../request/values';
import { AsInstant, NotFound, readInput, type Values } from '../request/input';
import { Filter, type List } from '../request/list';
import { isFile, limitOf, placeOf, writeCursor } from '../request/list-query';
import { requireOrder } from '../request/period';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';

class ChangesQuery extends WorkQuery {
  @Filter({ help: 'a learner, by their id', says: (learner, _params, names) => names.learner ?? learner })
  @IsOptional()
  @MaxLength(200, { message: 'is too long' })
  learner?: string;

  @Filter({ help: 'an item, by its id', says: (item, _params, names) => `Item ${names.item ?? item}` })
  @IsOptional()
  @MaxLength(200, { message: 'is too long' })
  item?: string;

  @Filter({ help: 'changed from a time on, or from a date’s beginning', says: (from) => `From ${from.slice(0, 10)}` })
  @IsOptional()
  @AsInstant()
  from?: number;
  @Filter({ help: 'changed before a time, or a date', says: (to) => `Before ${to.slice(0, 10)}` })
  @IsOptional()
  @AsInstant()
  to?: number;
}

/** @throws InvalidInput, NotFound */
export async function changes(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(ChangesQuery, values, runtime.zone);
  const { course, group, organisation, caseload, from, to } = query;
  if (from !== undefined && to !== undefined) requireOrder(from, to);
  const view = await openView(runtime, viewer, { course, group, organisation, caseload }, query.as_of);
  const learner = query.learner === undefined ? undefined : await findLearner(runtime.db, viewer, query.learner);
  if (learner === null) throw new NotFound('No such learner');
  const place = placeOf(query);
  const limit = limitOf(query);
  const asked = { learnerId: learner, item: query.item, from, to };
  const found = await gradeChanges(runtime.db, view, {
    ...asked,
    after: place === null ? null : { at: Number(place[0]), id: Number(place[1]) },
    limit: limit + 1,
  });
  const rows = found.slice(0, limit);
  const last = rows.at(-1);
  const next = found.length > limit && last && !isFile(query) ? writeCursor([last.at, last.id]) : null;
  const total = next === null && place === null ? rows.length : await countGradeChanges(runtime.db, view, asked);
  return { query, view, rows, total, next, now: view.now, zone: runtime.zone };
}

export const CHANGES = {
  name: 'grade-changes',
  api: 'grades/changes',
  path: '/courses/grades/changes',
  query: ChangesQuery,
  columns: {
    time: { title: 'When', isKey: true, figures: { time: (row) => isoOrNull(row.at) } },
    of: {
      title: 'Learner',
      figures: { learner_id: (row) => row.learner_id, name: (row) => fullName(row), course: (row) => row.course },
    },
    item: { title: 'Item', figures: { item_id: (row) => row.item_id, attempt: (row) => row.number } },
    old: { title: 'Before', figures: { old: (row) => row.old } },
    new: { title: 'After', figures: { new: (row) => row.score, points: (row) => row.points } },
    by: { title: 'By', figures: { by: (row) => row.by, why: (row) => row.why || null } },
  },
  read: changes,
} satisfies List<GradeChangeRow>;
