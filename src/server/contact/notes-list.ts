/** The list of notes that somebody may read. */
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import { findNotes, type NoteRow } from '@/data/contact/notes';
import type { Viewer } from '@/data/scope';
import { startOfDay } from '@/core/time/zone';
import { sayInstant } from '@/core/time/words';
import { isoOrNull } from '../request/values';
import { AsDay, readInput, type Values } from '../request/input';
import { Filter, type At, type List } from '../request/list';
import { limitOf, placeOf, writeCursor } from '../request/list-query';
import { SegmentQuery } from '../request/segment-query';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';

const long = { message: 'is too long' };

class NotesQuery extends SegmentQuery {
  @Filter({ help: 'any part of a note, a name or an id' }) @IsOptional() @MaxLength(200, long) q?: string;
  @Filter({ help: 'a label', says: (name) => `Labelled ${name}` }) @IsOptional() @MaxLength(200, long) label?: string;
  @Filter({
    help: 'any part of the name of who wrote it',
    says: (name) => `By ${name}`,
    control: { as: 'choice', label: 'By', choices: 'authors' },
  })
  @IsOptional()
  @MaxLength(200, long)
  by?: string;
  @Filter({
    help: 'from a date on',
    says: (from) => `From ${from.slice(0, 10)}`,
    control: { as: 'choice', label: 'Since', choices: 'days' },
  })
  @IsOptional()
  @AsDay()
  from?: number;
  @Filter({ help: 'up to a date, included', says: (to) => `To ${to.slice(0, 10)}` }) @IsOptional() @AsDay() to?: number;
  @Filter({
    help: '`yes` for those that are pinned',
    says: () => 'Pinned',
    control: { as: 'press', label: 'Pinned', value: 'yes' },
  })
  @IsOptional()
  @IsIn(['yes'], { message: 'is not yes' })
  pinned?: 'yes';
}

/** Newest first. @throws InvalidInput, NotFound */
export async function notes(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(NotesQuery, values, runtime.zone);
  const { course, group, organisation, caseload, q, label, by, from, to, pinned } = query;
  const { zone } = runtime;
  const view = await openView(runtime, viewer, { course, group, organisation, caseload });
  const { rows, total, goesOn } = await findNotes(runtime.db, view, {
    q,
    label,
    by,
    from: from === undefined ? undefined : startOfDay(from, zone),
    to: to === undefined ? undefined : startOfDay(to + 1, zone),
    pinned: pinned === 'yes',
    limit: limitOf(query),
    after: placeOf(query),
  });
  const last = rows.at(-1);
  const next = goesOn && last ? writeCursor([last.at, last.id]) : null;
  return { query, rows, total, next, now: view.now, zone: runtime.zone };
}

/** A note as the page shows it. */
export interface NoteLine {
  id: number;
  learnerId: string;
  name: string;
  /** Who wrote it and when, for whom, with its labels. */
  says: string;
  byId: number;
  isPinned: boolean;
  body: string;
}

function noteLine(row: NoteRow, { now, zone }: At): NoteLine {
  const says = [row.by, sayInstant(row.at, zone, now)];
  if (row.pinned_at !== null) says.push('pinned');
  if (row.audience === 'self') says.push('for yourself');
  if (row.labels.length > 0) says.push(row.labels.join(', '));
  return {
    id: row.id,
    learnerId: row.learner_id,
    name: row.name,
    says: says.join(' · '),
    byId: row.by_id,
    isPinned: row.pinned_at !== null,
    body: row.body,
  };
}

export const NOTES = {
  name: 'notes',
  path: '/follow-ups/notes',
  query: NotesQuery,
  columns: {
    at: { title: 'Time', figures: { time: (row) => isoOrNull(row.at) } },
    of: { title: 'Learner', figures: { learner_id: (row) => row.learner_id, name: (row) => row.name } },
    body: {
      title: 'Note',
      figures: { note: (row) => row.body, labels: (row) => row.labels, pinned: (row) => row.pinned_at !== null },
    },
    by: { title: 'By', figures: { by: (row) => row.by, for: (row) => row.audience } },
  },
  line: noteLine,
  read: notes,
} satisfies List<NoteRow>;
