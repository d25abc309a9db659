/** Tables of trials on past courses. */
import type { TrialKind, TrialState } from '@/core/trial/run';
import { integer, orNull, text, type TableColumns } from '../column';

export const TRIAL_TABLES = {
  trial_run: {
    id: integer(),
    kind: text<TrialKind>(),
    asked: text(),
    state: text<TrialState>(),
    at: integer(),
    staff_id: orNull(integer()),
    ended_at: orNull(integer()),
    done: integer(),
    total: integer(),
    owner: orNull(text()),
    lease_until: integer(),
    tries: integer(),
    result: orNull(text()),
    says: orNull(text()),
  },
} as const satisfies TableColumns;
