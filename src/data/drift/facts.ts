/** What drift is read from: one reader for each kind of fact, asked for what the model's factors need. */
import type { FactKind, FactsByKind } from '@/core/drift/types';
import { openWorkFacts } from '../completion/work-facts';
import { prepared, type RawConnection } from '../db';
import { openSessionCredits } from '../sessions/session-credits';

/** An enrolment of the group that is read. */
export interface EnrolmentKey {
  enrolmentId: number;
  learnerId: number;
  courseId: number;
  enrolledDay: number;
}

/** Reads one kind of fact of the group's enrolments. */
type FactReader<K extends FactKind> = (raw: RawConnection, zone: string) => (enrolment: EnrolmentKey) => FactsByKind[K];

const READERS: { [K in FactKind]: FactReader<K> } = {
  days: (raw) => {
    const there = prepared(
      raw,
      'SELECT day, worked, talked FROM learner_day WHERE learner_id = ? AND course_id = ? AND events > 0 ORDER BY day',
    ).raw();
    return ({ learnerId, courseId }) => {
      const rows = there.all(learnerId, courseId) as [day: number, worked: number, talked: number][];
      return {
        activeDays: rows.map(([day]) => day),
        efforts: rows.filter(([, worked, talked]) => worked + talked > 0),
      };
    };
  },
  sessions: (raw) => openSessionCredits(raw),
  work: (raw, zone) => openWorkFacts(raw, zone),
};

/** A reader of all that is needed: gives the facts of one enrolment, by their kind. */
export function factReader(
  raw: RawConnection,
  kinds: readonly FactKind[],
  zone: string,
): (enrolment: EnrolmentKey) => Partial<FactsByKind> {
  const readers = kinds.map((kind) => [kind, READERS[kind](raw, zone)] as const);
  return (enrolment) => Object.fromEntries(readers.map(([kind, read]) => [kind, read(enrolment)]));
}
