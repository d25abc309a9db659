'use server';

import type { TrialKind } from '@/core/trial/run';
import { defineAction, texts, unchecked, whole } from '@/server/request/action';
import { InvalidInput, NotFound } from '@/server/request/input';
import * as runs from '@/server/trial/runs';

export interface TrialForm {
  courses: string[];
  rules: string[];
  /** A number of days typed in, for a rule of its own. */
  quiet: string;
  people: string;
}

/** Asks for a trial or a fit of finished courses; gives its id. */
export const askForTrial = defineAction({
  takes: [unchecked<TrialKind>(), unchecked<TrialForm>()],
  run: async (runtime, viewer, kind, form) => {
    if (kind !== 'trial' && kind !== 'fit') throw new NotFound('No such trial');
    // What comes from a browser may be anything.
    const { courses, rules: chosen, quiet: days, people } = Object(form) as TrialForm;
    const quiet = String(days ?? '').trim();
    if (!/^\d{0,3}$/.test(quiet)) throw new InvalidInput([{ field: 'quiet', message: 'is not a number of days' }]);
    const rules = [...texts(chosen), ...(quiet === '' ? [] : [`quiet>=${quiet}`])];
    return runs.askForTrial(runtime, viewer, kind, {
      course: texts(courses).join(','),
      rule: kind === 'trial' ? rules.join(',') : '',
      people,
    });
  },
  wakesWorker: true,
});

export const cancelTrial = defineAction({ takes: [whole], run: runs.cancelTrial });
