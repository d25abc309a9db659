/** A person as a line of the Watch: what the row shows, and no more is sent. */
import type { WakeData } from '@/core/access/wake';
import type { Band } from '@/core/drift/types';
import type { Person } from '@/core/contact/person';

export interface WatchLine {
  id: number;
  learnerId: string;
  name: string;
  phone: string | null;
  toldApart: string | null;
  /** Course and group, or the first of several. */
  courses: string;
  score: number | null;
  band: Band | null;
  /** The strongest reason: its fact, and what else it says. */
  fact: string;
  more: string;
  second: string | null;
  lastContact: string | null;
  wake: WakeData;
}

export function watchLine(person: Person): WatchLine {
  const { id, learnerId, name, phone, toldApart, enrolments, score, band, contacts, wake } = person;
  const reasons = enrolments.flatMap((enrolment) => enrolment.reasons.filter((reason) => reason.points > 0));
  const [first] = enrolments;
  const why = reasons[0]?.says ?? first?.reasons[0]?.says ?? 'Nothing to judge by yet';
  const [fact, ...rest] = why.split(' · ');
  const alone = [first?.title, first?.group].filter(Boolean).join(' · ');
  return {
    id,
    learnerId,
    name,
    phone,
    toldApart,
    courses: enrolments.length > 1 ? `${first.title} and ${enrolments.length - 1} more` : alone,
    score: score === null ? null : Math.round(score * 10) / 10,
    band,
    fact,
    more: rest.join(' · '),
    second: reasons[1]?.says ?? null,
    lastContact: contacts[0]?.says ?? null,
    wake,
  };
}
