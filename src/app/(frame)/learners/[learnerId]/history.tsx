import Link from 'next/link';
import { sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { historyOf, type HistoryPoint } from '@/server/completion/history';
import { PlainTable } from '@/ui/plain-table';
import { Series } from '@/ui/series';
import { linkTo } from '../../../_list/list-link';
import type { FrameContext } from '../../../_frame/page-context';
import classes from './learner.module.css';

interface Props {
  frame: FrameContext;
  learnerId: number;
  learner: string;
  courses: { courseId: number; course: string; title: string }[];
  path: string;
  kept: Record<string, string | null>;
}

interface Line {
  title: string;
  of: (point: HistoryPoint) => number | null;
  /** The top of the picture; by what there is where it is not said. */
  to?: number;
  says: (value: number) => string;
}

const LINES: readonly Line[] = [
  { title: 'Drift', of: ({ drift }) => drift, to: 100, says: (value) => String(Math.round(value)) },
  {
    title: 'On graded work',
    of: ({ onGradedWork }) => onGradedWork,
    to: 100,
    says: (value) => `${Math.round(value)} %`,
  },
  {
    title: 'Progress',
    of: ({ progress }) => (progress === null ? null : 100 * progress),
    to: 100,
    says: (value) => `${Math.round(value)} %`,
  },
  {
    title: 'Attendance',
    of: ({ attendanceRate }) => (attendanceRate === null ? null : 100 * attendanceRate),
    to: 100,
    says: (value) => `${Math.round(value)} %`,
  },
  { title: 'Minutes a week', of: ({ minutes }) => minutes, says: (value) => `${Math.round(value)} min` },
];

/** How a learner's figures went over the term: a small line each, with gaps where nothing was known. */
export async function History({ frame, learnerId, learner, courses, path, kept }: Props) {
  const { runtime, view, params } = frame;
  const asked = courses.filter(
    ({ courseId }) => view.segment.courseId === undefined || view.segment.courseId === courseId,
  );
  const histories = (
    await Promise.all(
      asked.map(async (course) => ({ ...course, points: await historyOf(runtime, view, learnerId, course.courseId) })),
    )
  ).filter(({ points }) => points !== null && points.length > 0);
  if (histories.length === 0) return null;
  const today = dayOf(view.now, runtime.zone);
  const isTable = params.history === 'table';
  return (
    <section className={classes.section} id="history">
      <h2>Over the term</h2>
      <p className={classes.soft}>
        A point a week at its end, as it was known then; a gap is a week of which nothing was known.{' '}
        <Link scroll={false} href={`${linkTo(path, { ...kept, history: isTable ? null : 'table' })}#history`}>
          {isTable ? 'Show as lines' : 'Show as table'}
        </Link>
      </p>
      {histories.map(({ course, title, points }) => (
        <div key={course} className={classes.history}>
          <h3>
            <Link href={linkTo(`${path}/courses/${encodeURIComponent(course)}`, kept)}>{title}</Link>{' '}
            <a className={classes.soft} href={linkTo('/lists/history/export', { learner, course, format: 'csv' })}>
              CSV
            </a>
          </h3>
          {isTable ? (
            <PlainTable label={`${title} by week`} heads={['Week of', ...LINES.map((line) => line.title)]}>
              {points!.map((point) => (
                <tr key={point.monday}>
                  <td>{sayDay(point.monday, today)}</td>
                  {LINES.map((line) => {
                    const value = line.of(point);
                    return (
                      <td key={line.title}>
                        {value === null ? <span className={classes.soft}>not known</span> : line.says(value)}
                      </td>
                    );
                  })}
                </tr>
              ))}
            </PlainTable>
          ) : (
            <dl>
              {LINES.map((line) => (
                <OneLine key={line.title} line={line} points={points!} />
              ))}
            </dl>
          )}
        </div>
      ))}
    </section>
  );
}

function OneLine({ line, points }: { line: Line; points: HistoryPoint[] }) {
  const values = points.map(line.of);
  const known = values.filter((value) => value !== null);
  const last = values.findLast((value) => value !== null);
  return (
    <div>
      <dt>{line.title}</dt>
      <dd>
        {known.length === 0 ? (
          <span className={classes.soft}>never known</span>
        ) : (
          <>
            <Series
              values={values}
              to={line.to ?? Math.max(60, ...known)}
              width={190}
              height={30}
              says={`${line.title} by week: ${values.map((value) => (value === null ? 'not known' : line.says(value))).join(', ')}`}
            />
            <strong>{line.says(last!)}</strong>
          </>
        )}
      </dd>
    </div>
  );
}
