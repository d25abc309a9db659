/** A person as a line of the Watch: what the row shows, and no more is sent. */
import type { WakeData } from '@/core/access/wake';
import { inOrderApart } from '@/core/drift/apart';
import { reasonTitle } from '@/core/drift/model';
import { sayBriefly } from '@/core/drift/sentences';
import type { Band } from '@/core/drift/bands';
import type { Person } from '@/core/contact/person';
import type { Part } from '@/core/drift/order';
import { sayCount, sayList } from '@/core/time/words';

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
  /** The reason that sets them apart: its fact. */
  fact: string;
  /** What the other reasons add, in short. */
  others: string;
  lastContact: string | null;
  /** What they answered to it, in their own words. */
  answer: string | null;
  wake: WakeData;
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

/** Everything that speaks for a person's being on the list, over all courses. */
export function reasonsOf(person: Person) {
  return person.enrolments.flatMap((enrolment) => enrolment.reasons.filter((reason) => reason.points > 0));
}

/** What nearly everybody on a list has, said once above it; null for nothing. */
export function sayCommon(common: readonly string[]): string | null {
  if (common.length === 0) return null;
  const titles = common.map((factor) => reasonTitle(factor).toLowerCase());
  return `What nearly everybody here has comes last on their line: ${sayList(titles)}.`;
}

/** A contact on a line that is one's own list: "Wrote 8 days ago · answered", without who it was where it was oneself. */
const sayLast = (says: string | undefined) =>
  says === undefined ? null : says.replace(/^You (.)/, (_, letter: string) => letter.toUpperCase());

/** Letters of what the other reasons add that fit on a line; those that do not are counted. */
const ROOM = 38;

/** As many of some facts as have room, and how many more there are: no fact is cut. */
function sayOthers(facts: readonly string[]): string {
  const first = (count: number) => {
    const more = facts.length - count;
    return [facts.slice(0, count).join(', '), more > 0 ? `${more} more` : ''].filter(Boolean).join(' · ');
  };
  let count = Math.min(1, facts.length);
  while (count < facts.length && first(count + 1).length <= ROOM) count += 1;
  return first(count);
}

/**
 * A person in their position on the Watch, as a line: what sets them apart comes first.
 *
 * @param common reasons that nearly everybody on the list has
 */
export function watchLine(person: Person, position: Position, common: readonly string[]): WatchLine {
  const { id, learnerId, name, phone, toldApart, enrolments, score, band, contacts, wake } = person;
  const reasons = reasonsOf(person);
  const [first] = enrolments;
  const why = reasons.length > 0 ? inOrderApart(reasons, common) : (first?.reasons.slice(0, 1) ?? []);
  const { fact, others } = sayBriefly(why.map((reason) => reason.says));
  const absence = sayAbsence(position);
  const alone = [first?.title, first?.group?.replace(/^Group /, '')].filter(Boolean).join(' · ');
  return {
    id,
    learnerId,
    name,
    phone,
    toldApart,
    courses: enrolments.length > 1 ? `${first.title} and ${enrolments.length - 1} more` : alone,
    score: score === null ? null : Math.round(score * 10) / 10,
    band,
    ...(absence === null
      ? {
          fact: fact || (enrolments.find(({ without }) => without !== null)?.without ?? 'Nothing to judge by yet'),
          others: sayOthers(others),
        }
      : { fact: absence, others: sayOthers([fact, ...others].filter(Boolean)) }),
    lastContact: sayLast(contacts[0]?.says),
    answer: contacts[0]?.answer ?? null,
    wake,
  };
}
