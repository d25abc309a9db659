/** What Lee Shore knows of the courses in view, and what would make it see more: each with the file that would give it. */
import { tellingOn, type EvidenceKind } from '@/core/drift/evidence';
import { mergeRanges } from '@/core/drift/counted-days';
import { FACTORS } from '@/core/drift/model';
import { sayCount, sayList } from '@/core/time/words';
import { withRaw } from '@/data/db';
import { courseDates } from '@/data/drift/drift';
import { coursesUnderWay, type CourseUnderWay } from '@/data/drift/under-way';
import { countKnown } from '@/data/imports/known';
import type { DriftView } from '@/data/view';
import type { Runtime } from '../runtime';

/** Fewer reasons than these by which somebody can be judged are worth a line on the Watch. */
const ENOUGH = 8;

interface KnownLine {
  /** What it is about. */
  title: string;
  /** What is known of it. */
  known: string;
  /** What would tell more; null where nothing is missing. */
  gives: string | null;
}

export interface WhatIsKnown {
  /** Reasons of drift that anybody can be judged by, and all there are. */
  reasons: number;
  of: number;
  /** Reasons that nobody can be judged by. */
  without: string[];
  lines: KnownLine[];
}

/** What evidence some courses tell of, and what their outlines say. */
interface Told {
  kinds: Set<EvidenceKind>;
  hasPlan: boolean;
  hasDues: boolean;
}

function toldBy(courses: readonly (CourseUnderWay & { kinds: EvidenceKind[] })[]): Told {
  return {
    kinds: new Set(courses.flatMap(({ kinds }) => kinds)),
    hasPlan: courses.some(
      ({ start, end, required, said }) => start !== null && end !== null && (required > 0 || said > 0),
    ),
    hasDues: courses.some(({ dues }) => dues > 0),
  };
}

function canRead(name: string, evidence: EvidenceKind | null, { kinds, hasPlan, hasDues }: Told): boolean {
  if (name === 'behind') return hasPlan;
  if ((name === 'missing' || name === 'late') && !hasDues) return false;
  return evidence === null || kinds.has(evidence);
}

/** What is known of the courses under way in view. */
export async function whatIsKnown({ db, zone }: Pick<Runtime, 'db' | 'zone'>, view: DriftView): Promise<WhatIsKnown> {
  const courses = await coursesUnderWay(db, view);
  const { told, counts } = await withRaw(db, (raw) => {
    const withKinds = courses.map((course) => {
      const { breaks, feedGaps, evidence = {} } = courseDates(raw, course.id, zone);
      const skipped = mergeRanges([...breaks, ...feedGaps]);
      const kinds = (Object.keys(evidence) as EvidenceKind[]).filter(
        (kind) => tellingOn(evidence[kind], view.readingDay, skipped) === 'told',
      );
      return { ...course, kinds };
    });
    return { told: toldBy(withKinds), counts: countKnown(raw) };
  });
  const without = FACTORS.filter(({ name, evidence }) => !canRead(name, evidence, told)).map(({ title }) =>
    title.toLowerCase(),
  );
  const has = (...kinds: EvidenceKind[]) => kinds.some((kind) => told.kinds.has(kind));
  const line = (title: string, isKnown: boolean, known: string, gives: string): KnownLine => ({
    title,
    known: isKnown ? known : 'nothing yet',
    gives: isKnown ? null : gives,
  });
  const { learners, provisional, items, required, sessions } = counts;
  const lines: KnownLine[] = [
    {
      ...line(
        'People',
        learners > 0,
        sayCount(learners, 'learner'),
        'A list of participants, or a roster, says who is in which course.',
      ),
      ...(provisional > 0 && {
        known: `${sayCount(learners, 'learner')}, ${provisional} of them provisional`,
        gives: 'A roster with ids, e-mail addresses, telephone numbers and first days makes them whole.',
      }),
    },
    {
      ...line(
        'Outline',
        required > 0,
        `${sayCount(items, 'item')}, ${required} of them required`,
        'An outline says what is required, and when it is due: without it nobody is behind or overdue.',
      ),
      ...(required > 0 && !told.hasDues && { gives: 'Due dates in the outline would tell what is overdue.' }),
    },
    line(
      'Visits',
      has('opens'),
      'who opened what, and when',
      'A click log tells each visit and what was opened; a list of participants tells last accesses alone.',
    ),
    line(
      'Hand-ins',
      has('hand_ins'),
      'who handed in what',
      'A file of results, or a log with what was submitted, tells who handed in what.',
    ),
    line('Grades', has('grades'), 'scores', 'A gradebook or a file of results gives scores.'),
    line(
      'Sessions',
      has('sessions'),
      sayCount(sessions, 'session'),
      'A timetable, and a roll or a meeting’s list of who was there, tell who attends.',
    ),
    line('Talking', has('talked'), 'posts and messages', 'A log with posts and messages tells who takes part.'),
  ];
  return { reasons: FACTORS.length - without.length, of: FACTORS.length, without, lines };
}

/** The same in one line, while too few reasons can be judged; null where enough can. */
export function sayWhatIsMissing({ reasons, of, without }: WhatIsKnown): string | null {
  if (reasons >= ENOUGH) return null;
  return `Drift reads ${reasons} of its ${of} reasons here: not ${sayList(without)}.`;
}
