/** Message templates, kept for a course's team or for the whole programme. */
import type { Knex } from 'knex';
import { maxOf, type Db } from '../db';
import type { Viewer } from '../scope';
import { isLead } from '@/core/staff/rights';

export interface TemplateRow {
  id: number;
  /** The course whose team has it; null for the whole programme. */
  course_id: number | null;
  course: string | null;
  name: string;
  subject: string;
  body: string;
  position: number;
  /** Names of the answers that it offers, with commas between. */
  answers: string;
  /** 1 where it is offered for praise, and for nothing else. */
  is_praise: number;
}

/** Courses in which the viewer works: whose team they are in. */
export function teamCourses(db: Db, viewer: Viewer): Knex.QueryBuilder {
  return db('course').where((any) => {
    if (viewer.all) return;
    any.whereIn('course.id', viewer.courses);
    any.orWhereIn('course.id', db('course_group').whereIn('id', viewer.groups).select('course_id'));
  });
}

function readable(db: Db, viewer: Viewer) {
  return db('template')
    .leftJoin('course', 'course.id', 'template.course_id')
    .whereNull('template.ended_at')
    .where((any) =>
      any.whereNull('template.course_id').orWhereIn('template.course_id', teamCourses(db, viewer).select('course.id')),
    )
    .select('template.*', 'course.code as course');
}

/** The templates of the viewer's teams, in their order. */
export async function listTemplates(db: Db, viewer: Viewer): Promise<TemplateRow[]> {
  return readable(db, viewer).orderBy(['template.position', 'template.id']);
}

/** A template that the viewer may change: their team's, or the programme's for a lead. */
export async function findOwnTemplate(db: Db, viewer: Viewer, id: number): Promise<TemplateRow | null> {
  const row: TemplateRow | undefined = await readable(db, viewer).where('template.id', id).first();
  return row && (row.course_id !== null || isLead(viewer)) ? row : null;
}

export async function storeTemplate(
  trx: Db,
  id: number | null,
  template: Pick<TemplateRow, 'course_id' | 'name' | 'subject' | 'body' | 'answers' | 'is_praise'>,
): Promise<number> {
  if (id !== null) {
    await trx('template').where({ id }).update(template);
    return id;
  }
  const last = await maxOf(trx('template'), 'position');
  const [row] = await trx('template')
    .insert({ ...template, position: (last ?? 0) + 1 })
    .returning('id');
  return row.id;
}

export async function endTemplate(trx: Db, id: number, now: number | null): Promise<void> {
  await trx('template').where({ id }).update({ ended_at: now });
}

/** Puts one template before or after its neighbour. */
export async function swapTemplates(trx: Db, a: TemplateRow, b: TemplateRow): Promise<void> {
  await trx('template').where({ id: a.id }).update({ position: b.position });
  await trx('template').where({ id: b.id }).update({ position: a.position });
}
