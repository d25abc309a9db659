/** A session's attendance as the API answers it, and as a file. */
import { IsIn, IsOptional } from 'class-validator';
import type { Viewer } from '@/data/scope';
import { asFile, fileResponse } from '../request/exports';
import { isoOrNull } from '../request/values';
import { readInput, type Values } from '../request/input';
import { ListQuery, isFile } from '../request/list-query';
import type { Runtime } from '../runtime';
import { ATTENDANCE_OF_SESSION, SESSION_FACTS, attendanceFigures, openSession } from './session';

class SessionFileQuery extends ListQuery {
  /** Whether a file repeats what is known of the session in each row. */
  @IsOptional() @IsIn(['yes', 'no'], { message: 'is not one of yes, no' }) facts?: 'yes' | 'no';
}

/** @throws InvalidInput, NotFound */
export async function attendanceAnswer(
  runtime: Runtime,
  viewer: Viewer,
  sessionId: string,
  values: Values,
): Promise<Response> {
  const query = readInput(SessionFileQuery, values);
  const opened = await openSession(runtime, viewer, sessionId);
  const rows = attendanceFigures(opened);
  if (isFile(query)) {
    const columns = query.facts === 'no' ? ATTENDANCE_OF_SESSION : [...SESSION_FACTS, ...ATTENDANCE_OF_SESSION];
    const name = `attendance-${sessionId.replaceAll(/[^\w.-]+/g, '-')}`;
    return fileResponse(asFile(query.format, columns, rows), name, query.format);
  }
  const data = rows.map((row) => Object.fromEntries(ATTENDANCE_OF_SESSION.map((name) => [name, row[name]])));
  const unmatched = opened.unmatched.map(({ person, email, entered, left, rows: count, proposed }) => ({
    person,
    email,
    entered: isoOrNull(entered),
    left: isoOrNull(left),
    rows: count,
    proposed: proposed?.learner_id ?? null,
  }));
  return Response.json({ data, unmatched, next: null, total: data.length });
}
