/** Sending marks of a roll: a plain request, which a device without a connection can make later. */
import type { RollAnswer } from '@/server/sessions/roll';

/** A mark as it goes to the server. */
export interface SentMark {
  learner_id: string;
  /** Left out to take the mark away. */
  mark?: string;
  remark?: string;
  /** The change of it that was last seen. */
  seen: number;
  source?: 'hand' | 'suggested';
}

export type SendResult =
  | { ok: true; value: RollAnswer }
  /** `later`: nothing is wrong with it, there is no connection or the server is busy. */
  | { ok: false; later: boolean; says: string };

function isOurs(body: unknown): body is RollAnswer {
  const { changes, conflicts, refused } = Object(body) as Partial<RollAnswer>;
  return typeof changes === 'object' && Array.isArray(conflicts) && Array.isArray(refused);
}

/** @param replace a colleague's mark is overwritten: both have been seen */
export async function sendMarks(sessionId: string, marks: readonly SentMark[], replace = false): Promise<SendResult> {
  try {
    const answer = await fetch(`/sessions/${encodeURIComponent(sessionId)}/roll/marks`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ marks, replace }),
    });
    const body = await answer.json().catch(() => ({}));
    if (answer.ok) {
      // A page that asks for a sign-in to the network answers as well, and has taken nothing.
      if (answer.redirected || !isOurs(body))
        return { ok: false, later: true, says: 'There is no connection to Lee Shore.' };
      return { ok: true, value: body };
    }
    const says = String(body.detail ?? 'The server did not take it.');
    return { ok: false, later: answer.status >= 500 || answer.status === 401, says };
  } catch {
    return { ok: false, later: true, says: 'There is no connection.' };
  }
}
