import type { Metadata } from 'next';
import Link from 'next/link';
import { groupBy } from '@/core/group-by';
import { fullName } from '@/core/people/name';
import { sayCount, sayInstant } from '@/core/time/words';
import { DUE_WORDS } from '@/core/work/due';
import { InvalidInput } from '@/server/request/input';
import { askedOf, listParams } from '@/server/request/list';
import { WORK_DUE, workDue } from '@/server/work/work-due-list';
import { linkTo } from '../../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../../_frame/page-context';
import frameClasses from '../../../../_frame/frame.module.css';
import { PlainTable } from '@/ui/plain-table';
import classes from './sheets.module.css';
import { PrintButton } from '../../../../_list/outputs';

export const metadata: Metadata = { title: 'What is open' };

/** Pieces on all sheets at most. */
const MOST = '1000';

/** Each learner's own list on a page of its own, to print or to hand over: nobody else is on it. */
export default async function SheetsPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime } = frame;
  const { zone } = runtime;
  const params = listParams(WORK_DUE, { state: 'any_overdue', ...frame.params });
  const list = await orNotFound(
    workDue(runtime, frame.viewer, { ...askedOf(WORK_DUE, params), sort: 'name', limit: MOST }),
  ).catch((error: unknown) => {
    if (error instanceof InvalidInput) return error;
    throw error;
  });
  if (list instanceof InvalidInput) {
    return (
      <div className={frameClasses.page}>
        <p role="alert">
          This link asks for something the list does not know: {list.message}.{' '}
          <Link href="/courses/work-due">Work due</Link>
        </p>
      </div>
    );
  }
  const people = [...groupBy(list.rows, ({ enrolled }) => enrolled.id)];
  return (
    <div className={frameClasses.page}>
      <p className={classes.noPrint}>
        <Link href={linkTo(WORK_DUE.path, params)}>Back to Work due</Link> <PrintButton />{' '}
        {sayCount(people.length, 'learner')}, a page each
        {list.total > list.rows.length &&
          `; ${list.rows.length} of ${list.total} assignments: narrow the list for the others`}
      </p>
      {people.length === 0 && <p>Nothing is open.</p>}
      {people.map(([id, rows]) => (
        <section key={id} className={classes.sheet}>
          <h1>
            <bdi>{fullName(rows[0].enrolled)}</bdi>
          </h1>
          <p>What is open, as of {sayInstant(list.now, zone)}.</p>
          <PlainTable
            label={`Open for ${fullName(rows[0].enrolled)}`}
            heads={['Course', 'Item', 'Due', 'Where it stands', '']}
          >
            {[...rows]
              .sort((a, b) => a.due_at - b.due_at)
              .map((row) => (
                <tr key={row.itemId}>
                  <td>{row.enrolled.course}</td>
                  <td>{row.item}</td>
                  <td>{sayInstant(row.due_at, zone, list.now)}</td>
                  <td>
                    {DUE_WORDS[row.state]}
                    {row.days_late > 0 && `, ${sayCount(row.days_late, 'day')} late`}
                  </td>
                  <td className={classes.tick} aria-label="Done" />
                </tr>
              ))}
          </PlainTable>
        </section>
      ))}
    </div>
  );
}
