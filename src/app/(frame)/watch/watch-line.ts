/** A person as a line of the Watch: what the row shows, and no more is sent. */
import type { WakeData } from '@/core/access/wake';
import { sayBriefly } from '@/core/drift/sentences';
import type { Band } from '@/core/drift/types';
import type { Person } from '@/core/contact/person';
import type { Part } from '@/core/drift/order';
import { sayCount } from '@/core/time/words';

export interface WatchLine {
  id: number;
  learnerId: string;
  name: string;
  phone: string | null;
  toldApart: string | null;
  /** Course and group, or the first of several, and how much is overdue. */
  courses: string;
  score: number | null;
  band: Band | null;
  /** The strongest reason: its fact, and what else it says. */
  fact: string;
  more: string;
  /** What the other reasons add, in short. */
  others: string;
  lastContact: string | null;
  wake: WakeData;
}

/** "3 overdue", over all courses; nothing where nothing is, or it is not known. */
function sayOverdue(enrolments: Person['enrolments']): string | null {
  const overdue = enrolments.reduce((sum, one) => sum + (one.overdue ?? 0), 0);
  return overdue > 0 ? `${overdue} overdue` : null;
}

/** What puts somebody in a list of their own: the first that its reader wants to know. */
function sayAbsence(position: Position): string | null {
  if (position.part === 'away') return `Away ${sayCount(position.daysAway!, 'day')}`;
  return position.part === 'never' ? `Never there in ${sayCount(position.never!, 'day')}` : null;
}

interface Position {
  part: Part;
  daysAway: number | null;
  never: number | null;
}

/** A person in their position on the Watch, as a line. */
export function watchLine(person: Person, position: Position): WatchLine {
  const { id, learnerId, name, phone, toldApart, enrolments, score, band, contacts, wake } = person;
  const reasons = enrolments.flatMap((enrolment) => enrolment.reasons.filter((reason) => reason.points > 0));
  const [first] = enrolments;
  const why = reasons.length > 0 ? reasons : (first?.reasons.slice(0, 1) ?? []);
  const { fact, more, others } = sayBriefly(why.map((reason) => reason.says));
  const absence = sayAbsence(position);
  const alone = [first?.title, first?.group].filter(Boolean).join(' · ');
  return {
    id,
    learnerId,
    name,
    phone,
    toldApart,
    courses: [
      enrolments.length > 1 ? `${first.title} and ${enrolments.length - 1} more` : alone,
      sayOverdue(enrolments),
    ]
      .filter(Boolean)
      .join(' · '),
    score: score === null ? null : Math.round(score * 10) / 10,
    band,
    ...(absence === null
      ? {
          fact: fact || (enrolments.find(({ without }) => without !== null)?.without ?? 'Nothing to judge by yet'),
          more,
          others,
        }
      : { fact: absence, more: '', others: [fact, others].filter(Boolean).join(', ') }),
    lastContact: contacts[0]?.says ?? null,
    wake,
  };
}
