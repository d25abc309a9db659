/** Message templates: made, edited, ordered and ended by the team that uses them. */
import { IsArray, IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { TAP_NAMES, type Tap } from '@/core/contact/tap';
import { fieldFault } from '@/core/contact/template';
import { writing } from '@/data/db';
import type { Viewer } from '@/data/scope';
import { isLead, isStaffMember } from '@/core/staff/rights';
import {
  endTemplate,
  findOwnTemplate,
  listTemplates,
  storeTemplate,
  swapTemplates,
  teamCourses,
} from '@/data/contact/templates';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';

const missing = { message: 'is missing' };

export class TemplateInput {
  @IsNotEmpty(missing) @MaxLength(80, { message: 'is longer than 80 characters' }) name!: string;
  @IsNotEmpty(missing) @MaxLength(200, { message: 'is longer than 200 characters' }) subject!: string;
  @IsNotEmpty(missing) @MaxLength(20_000, { message: 'is longer than 20,000 characters' }) body!: string;
  /** A course's code, whose team has it; left out for the whole programme. */
  @IsOptional() @MaxLength(200, { message: 'is too long' }) course?: string;
  /** Answers that it offers as links. */
  @IsOptional()
  @IsIn(TAP_NAMES, { each: true, message: `are not some of ${TAP_NAMES.join(', ')}` })
  @IsArray({ message: 'is not a list' })
  answers?: Tap[];
  /** Is it for praise alone? */
  @IsOptional() @IsIn(['yes', 'no'], { message: 'is not yes or no' }) is_praise?: 'yes' | 'no';
}

/** Makes a template or changes one. @throws InvalidInput for a field that does not exist, NotFound */
export async function saveTemplate(
  { db }: Runtime,
  viewer: Viewer,
  id: number | null,
  values: Values,
): Promise<number> {
  if (!isStaffMember(viewer)) throw new NotFound();
  const { name, subject, body, course, answers = [], is_praise } = readInput(TemplateInput, values);
  const faults = Object.entries({ subject, body }).flatMap(([field, text]) => {
    const message = fieldFault(text);
    return message === null ? [] : [{ field, message }];
  });
  if (faults.length > 0) throw new InvalidInput(faults);
  return writing(db, async (trx) => {
    if (id !== null && !(await findOwnTemplate(trx, viewer, id))) throw new NotFound('No such template');
    const team = course ? await teamCourses(trx, viewer).where('course.code', course).first('course.id') : null;
    if (course && !team) throw new InvalidInput([{ field: 'course', message: `is none of yours: ${course}` }]);
    if (!course && !isLead(viewer)) {
      throw new InvalidInput([{ field: 'course', message: 'is missing: only a lead keeps templates for everyone' }]);
    }
    return storeTemplate(trx, id, {
      course_id: team?.id ?? null,
      name,
      subject,
      body,
      answers: TAP_NAMES.filter((tap) => answers.includes(tap)).join(','),
      is_praise: is_praise === 'yes' ? 1 : 0,
    });
  });
}

/** Takes a template away (messages written with it stay), or puts it back. @throws NotFound */
export async function removeTemplate({ db, clock }: Runtime, viewer: Viewer, id: number): Promise<void> {
  if (!isStaffMember(viewer) || !(await findOwnTemplate(db, viewer, id))) throw new NotFound('No such template');
  await endTemplate(db, id, clock.now());
}

/** Moves a template up or down among those the viewer sees. @throws NotFound */
export async function moveTemplate({ db }: Runtime, viewer: Viewer, id: number, by: 1 | -1): Promise<void> {
  if (!isStaffMember(viewer)) throw new NotFound();
  await writing(db, async (trx) => {
    const ownTemplate = await findOwnTemplate(trx, viewer, id);
    if (!ownTemplate) throw new NotFound('No such template');
    const all = await listTemplates(trx, viewer);
    const beside = all[all.findIndex((one) => one.id === id) + by];
    if (beside) await swapTemplates(trx, ownTemplate, beside);
  });
}
