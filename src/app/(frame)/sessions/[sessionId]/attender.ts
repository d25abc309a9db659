import type { MarkSource } from '@/core/sessions/attendance';
import type { Presence } from '@/core/sessions/presence';
import type { Suggestion } from '@/core/sessions/suggest';

/** Somebody in a session, as its table shows them. */
export interface Attender {
  id: number;
  learnerId: string;
  name: string;
  /** Of another group, who came nevertheless. */
  group: string | null;
  mark: string | null;
  source: MarkSource | null;
  differs: string | null;
  change: number;
  presence: Presence | null;
  suggested: Suggestion | null;
  checkedIn: number | null;
}
