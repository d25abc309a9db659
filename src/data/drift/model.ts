/** What drift is read by, as the programme has set it. */
import { DEFAULT_MODEL } from '@/core/drift/model';
import type { Model } from '@/core/drift/types';
import type { RawConnection } from '../db';

const SETTING = 'drift_model';

/** Weights and edges that are kept, as JSON; what is not named is as it is without a setting. */
type KeptModel = Partial<Pick<Model, 'weights' | 'edges'>>;

/** The model that readings are made by now. */
export function readModel(raw: RawConnection): Model {
  const kept = raw.prepare<string, string>('SELECT value FROM setting WHERE name = ?').pluck().get(SETTING);
  return kept === undefined ? DEFAULT_MODEL : { ...DEFAULT_MODEL, ...(JSON.parse(kept) as KeptModel) };
}
