/** What the mentor wrote in the weeks before: sent as the application sends, at the time it was sent. */
import { DAY, HOUR, dayOf, startOfDay } from '@/core/time/zone';
import { findLearner } from '@/data/people/learners';
import type { DriftView } from '@/data/view';
import { closeAsSent } from '@/data/contact/messages';
import { staffByEmail, viewerOf } from '@/data/staff/staff';
import { visitsOfLearners } from '@/data/access/visits';
import type { Runtime } from '@/server/runtime';
import { openDriftView } from '@/server/request/view';
import { sendDraft, startDraft } from '@/server/contact/write';

const TEXT = {
  subject: 'How is {{course}} going?',
  body: 'Hello {{given_name}},\n\nyour next step in {{course}} is short. Ten minutes are enough to begin. If something is in the way, answer this or ring me.\n\nMair',
};

/** Longest pause of somebody's visits that ended or lasts, of at least 6 days. */
function pauseOf(starts: readonly number[], now: number): { from: number; to: number } | null {
  for (let i = starts.length - 1; i >= 0; i -= 1) {
    const to = starts[i + 1] ?? now;
    if (to - starts[i] >= 6 * DAY) return { from: starts[i], to };
  }
  return null;
}

/** Writes to about every third of those who were quiet for six days or more. Returns how many messages. */
export async function writeEarlierMessages(
  runtime: Runtime,
  email: string,
  learnerIds: readonly string[],
): Promise<number> {
  const { db, clock, zone } = runtime;
  const staff = await staffByEmail(db, email);
  const viewer = await viewerOf(db, staff!);
  const view: DriftView = await openDriftView(runtime, viewer);
  const now = clock.now();
  let written = 0;
  for (const [index, learnerId] of learnerIds.entries()) {
    if (index % 3 !== 0) continue;
    const id = await findLearner(db, viewer, learnerId);
    if (id === null) continue;
    const visits = await visitsOfLearners(db, viewer, {}, [id], {});
    const pause = pauseOf(visits.map((visit) => visit.start).reverse(), now);
    if (!pause) continue;
    const at = startOfDay(dayOf(pause.from, zone) + 5, zone) + 9 * HOUR + index * 60_000;
    if (at > now) continue;
    const then: Runtime = { ...runtime, clock: { now: () => at, real: clock.real } };
    const draft = await startDraft(then, view, [id]);
    const result = await sendDraft(then, view, draft, TEXT, [String(id)]);
    if (result.outcome !== 'queued') continue;
    await closeAsSent(db, draft, at + 12_000);
    written += 1;
  }
  return written;
}
