'use client';

import { notifications } from '@mantine/notifications';
import { useRouter } from 'next/navigation';
import { useTransition } from 'react';
import { sayCount, plural } from '@/core/time/words';
import { offerUndo } from '../../../_frame/offer-undo';
import type { Attender } from './attender';
import { sendMarks, type SentMark } from '../../../_frame/send-marks';

/** Accepts suggested marks: of one learner, or of all who have none; undone by taking them back. */
export function useAccept(sessionId: string) {
  const router = useRouter();
  const [pending, startTransition] = useTransition();
  const send = (marks: SentMark[], then: (changes: Record<string, number>) => void) =>
    startTransition(async () => {
      const answer = await sendMarks(sessionId, marks);
      if (!answer.ok) {
        notifications.show({ title: 'No mark was given', message: answer.says, color: 'red' });
        return;
      }
      if (answer.value.conflicts.length > 0) {
        const title = `${sayCount(answer.value.conflicts.length, 'mark')} left as a colleague gave ${plural(answer.value.conflicts.length, 'it', 'them')}`;
        notifications.show({ title, message: 'Take the roll to see both and choose.', color: 'yellow' });
      }
      if (answer.value.refused.length > 0) {
        const title = `${sayCount(answer.value.refused.length, 'mark')} could not be given`;
        notifications.show({ title, message: answer.value.refused.map(({ says }) => says).join(' '), color: 'red' });
      }
      then(answer.value.changes);
      router.refresh();
    });
  const accept = (people: readonly Attender[]) => {
    const marks = people.flatMap(({ learnerId, suggested, change }): SentMark[] =>
      suggested ? [{ learner_id: learnerId, mark: suggested.mark, seen: change, source: 'suggested' }] : [],
    );
    send(marks, (changes) =>
      offerUndo(`${sayCount(marks.length, 'suggestion')} accepted`, () =>
        send(
          people.map(({ learnerId, mark }) => ({
            learner_id: learnerId,
            ...(mark && { mark }),
            seen: changes[learnerId] ?? 0,
          })),
          () => undefined,
        ),
      ),
    );
  };
  return { accept, pending };
}
