'use server';

import type { TrialKind } from '@/core/trial/run';
import { InvalidInput, NotFound } from '@/server/request/input';
import { runtime } from '@/server/runtime';
import { askForTrial, cancelTrial } from '@/server/trial/runs';
import { requireViewer } from '@/server/request/viewer';
import { wakeWorker } from '@/server/worker-host';
import { trying, type Result } from '../../../_frame/trying';

export interface TrialForm {
  courses: string[];
  rules: string[];
  /** A number of days typed in, for a rule of its own. */
  quiet: string;
  people: string;
}

/** Asks for a trial or a fit of finished courses; gives its id. */
export async function askTheTrial(kind: TrialKind, form: TrialForm): Promise<Result<number>> {
  const viewer = await requireViewer();
  const texts = (values: unknown) => (Array.isArray(values) ? values.map(String) : []);
  const result = await trying(async () => {
    if (kind !== 'trial' && kind !== 'fit') throw new NotFound('No such trial');
    // What comes from a browser may be anything.
    const { courses, rules: chosen, quiet: days, people } = Object(form) as Partial<TrialForm>;
    const quiet = String(days ?? '').trim();
    if (!/^\d{0,3}$/.test(quiet)) throw new InvalidInput([{ field: 'quiet', message: 'is not a number of days' }]);
    const rules = [...texts(chosen), ...(quiet === '' ? [] : [`quiet>=${quiet}`])];
    return askForTrial(await runtime(), viewer, kind, {
      course: texts(courses).join(','),
      rule: kind === 'trial' ? rules.join(',') : '',
      people,
    });
  });
  wakeWorker();
  return result;
}

export async function cancelTheTrial(id: number): Promise<Result> {
  const viewer = await requireViewer();
  return trying(async () => cancelTrial(await runtime(), viewer, Number(id)));
}
