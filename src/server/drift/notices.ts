/** What has to be known to read the Watch: logs that have stopped, evidence that never came, courses without dates. */
import { EVIDENCE_WORDS, tellingOn, type EvidenceKind } from '@/core/drift/evidence';
import { mergeRanges, isWithin } from '@/core/drift/counted-days';
import { FACTORS } from '@/core/drift/model';
import { sayDay } from '@/core/time/words';
import { dateOfDay } from '@/core/time/zone';
import { withRaw } from '@/data/db';
import { courseDates } from '@/data/drift/drift';
import { coursesUnderWay, type CourseUnderWay } from '@/data/drift/under-way';
import type { DriftView } from '@/data/view';
import type { Runtime } from '../runtime';

type NoticeKind = 'stopped' | 'never_fed' | 'no_dates';

export interface Notice {
  /** The course's code. */
  course: string;
  what: NoticeKind;
  /** The kind of evidence; null for the log as a whole, and for dates. */
  kind: EvidenceKind | null;
  /** The last day that was told, as a date. */
  since: string | null;
  says: string;
}

/** What would let a kind of evidence be told of. */
const WOULD_LET: Readonly<Record<EvidenceKind, string>> = {
  opens: 'an access log',
  worked: 'an access log with what was worked on',
  talked: 'an access log with posts and messages',
  watched: 'progress of videos',
  hand_ins: 'a file of results',
  grades: 'a file of results',
  sessions: 'a roll, or a file of presence',
  by_hand: 'items marked by hand',
};

/** Is a kind something that a course could be expected to tell of? One without work has no hand-ins to tell. */
function isExpected(kind: EvidenceKind, { assignments, sessions, discussions }: CourseUnderWay): boolean {
  if (kind === 'hand_ins' || kind === 'grades') return assignments > 0;
  if (kind === 'sessions') return sessions > 0;
  if (kind === 'talked') return discussions > 0;
  return true;
}

const JUDGED_BY = [...new Set(FACTORS.flatMap(({ evidence }) => evidence ?? []))];

/** Notices of the courses in view, by course: of those that have begun and go on. */
export async function noticesOf({ db, zone }: Pick<Runtime, 'db' | 'zone'>, view: DriftView): Promise<Notice[]> {
  const day = view.readingDay;
  const courses = await coursesUnderWay(db, view);
  return withRaw(db, (raw) =>
    courses.flatMap((course): Notice[] => {
      const { breaks, feedGaps, silent = null, evidence = {} } = courseDates(raw, course.id, zone);
      const skipped = mergeRanges([...breaks, ...feedGaps]);
      const notices: Notice[] = [];
      const add = (what: NoticeKind, kind: EvidenceKind | null, since: number | null, says: string) =>
        notices.push({ course: course.code, what, kind, since: since === null ? null : dateOfDay(since), says });
      if (silent && silent.from <= day && !allWithin(silent.from, day, breaks)) {
        const last = silent.from - 1;
        add(
          'stopped',
          null,
          last,
          `Nothing has come from the log since ${sayDay(last, day)}: the days since are not counted, and readings stand as of then.`,
        );
      }
      for (const kind of JUDGED_BY.filter((one) => isExpected(one, course))) {
        const telling = tellingOn(evidence[kind], day, skipped);
        if (telling === 'told') continue;
        const last = evidence[kind]?.days.findLast((one) => one <= day) ?? null;
        const words = EVIDENCE_WORDS[kind];
        if (telling === 'never')
          add(
            'never_fed',
            kind,
            null,
            `Nobody’s ${words} are known, so nobody is judged by them. ${WOULD_LET[kind]} would let them be.`,
          );
        else if (last !== null)
          add(
            'stopped',
            kind,
            last,
            `No ${words} have come since ${sayDay(last, day)}, so nobody is judged by them until more come.`,
          );
      }
      if (course.start === null || course.end === null)
        add(
          'no_dates',
          null,
          null,
          'The course has no first and last day, so there is no plan to be behind. Set both on its page.',
        );
      return notices;
    }),
  );
}

function allWithin(from: number, to: number, ranges: readonly (readonly [number, number])[]): boolean {
  const merged = mergeRanges(ranges);
  for (let day = from; day <= to; day += 1) if (!isWithin(day, merged)) return false;
  return true;
}

/** Notices that say the same of several courses, put together. */
export interface NoticeLine {
  what: NoticeKind;
  courses: string[];
  says: string;
}

export function noticeLines(notices: readonly Notice[]): NoticeLine[] {
  const lines = new Map<string, NoticeLine>();
  for (const { course, what, says } of notices) {
    const line = lines.get(says);
    if (line) line.courses.push(course);
    else lines.set(says, { what, courses: [course], says });
  }
  const order: readonly NoticeKind[] = ['stopped', 'no_dates', 'never_fed'];
  return [...lines.values()].sort((a, b) => order.indexOf(a.what) - order.indexOf(b.what));
}
