'use client';

import { notifications } from '@mantine/notifications';
import { usePathname } from 'next/navigation';
import { useEffect } from 'react';
import { sayCount, plural } from '@/core/time/words';
import { sendMarks } from './send-marks';
import { keepOne, readKept, sessionsWaiting, type OwnMark } from './stored-marks';

/**
 * Sends marks that wait on this device, from whatever page: a sign-in that ended while a roll was taken keeps them from
 * nobody. On the roll's own page that page does it.
 */
export function RollKeeper({ staffId }: { staffId: number }) {
  const isRoll = usePathname().endsWith('/roll');
  useEffect(() => {
    if (!isRoll) void sendWaiting(staffId);
  }, [staffId, isRoll]);
  return null;
}

async function sendWaiting(staffId: number): Promise<void> {
  for (const sessionId of sessionsWaiting(localStorage, staffId)) {
    const waiting = readKept<OwnMark>(localStorage, 'mark', staffId, sessionId);
    const ids = Object.keys(waiting);
    const marks = ids.map((learner_id) => {
      const { mark, remark, seen } = waiting[learner_id];
      return { learner_id, ...(mark !== null && { mark }), remark, seen };
    });
    const answer = await sendMarks(sessionId, marks);
    if (!answer.ok) continue;
    const { conflicts, refused } = answer.value;
    for (const one of conflicts)
      keepOne(
        localStorage,
        'conflict',
        { staffId, sessionId, learnerId: one.learner_id },
        { ...one, own: waiting[one.learner_id] },
      );
    for (const learnerId of ids) keepOne(localStorage, 'mark', { staffId, sessionId, learnerId }, null);
    const taken = ids.length - conflicts.length - refused.length;
    const left = [
      conflicts.length > 0
        ? `${sayCount(conflicts.length, 'mark')} given otherwise meanwhile: open the roll to choose.`
        : '',
      ...refused.map(({ says }) => says),
    ];
    notifications.show({
      title: `${sayCount(taken, 'mark')} of ${sessionId} that waited on this device ${plural(taken, 'was', 'were')} saved`,
      message: left.filter(Boolean).join(' '),
    });
  }
}
