import type { Metadata } from 'next';
import Link from 'next/link';
import { sayInstant } from '@/core/time/words';
import { explainPeople, tellApart } from '@/server/people/people';
import { InvalidInput } from '@/server/request/input';
import { LEARNERS, learnerList } from '@/server/people/learner-list';
import { askedOf, listParams } from '@/server/request/list';
import { linkTo } from '../../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../../_frame/page-context';
import frameClasses from '../../../../_frame/frame.module.css';
import classes from '../../../learners/learners.module.css';
import { PrintButton } from '../../../../_list/outputs';

export const metadata: Metadata = { title: 'Call sheet' };

/** People on one sheet at most: more than a week of calls. */
const MOST = '200';

/** The list as a sheet of paper: name, number, why, last contact, room for notes. */
export default async function CallSheetPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime } = frame;
  const { zone } = runtime;
  const params = listParams(LEARNERS, { ...frame.params, as_of: frame.asOf ?? undefined });
  const list = await orNotFound(
    learnerList(runtime, frame.viewer, { sort: '-drift', ...askedOf(LEARNERS, params), limit: MOST }),
  ).catch((error: unknown) => {
    if (error instanceof InvalidInput) return error;
    throw error;
  });
  if (list instanceof InvalidInput) {
    return (
      <div className={frameClasses.page}>
        <h1>Call sheet</h1>
        <p role="alert">
          This link asks for something the list does not know: {list.message}.{' '}
          <Link href={linkTo('/learners', { in: params.in })}>Show everybody</Link>
        </p>
      </div>
    );
  }
  const detail = { wakeDays: 1, visits: 1, contacts: 1, status: 'active' } as const;
  const ids = list.rows.map((row) => row.id);
  const people = tellApart(await explainPeople(runtime, list.view, ids, detail));
  return (
    <div className={frameClasses.page}>
      <p className={classes.noPrint}>
        <Link href={linkTo('/learners', params)}>Back to the list</Link> <PrintButton />
      </p>
      <h1>Call sheet of {sayInstant(list.view.now, zone)}</h1>
      <p className={classes.soft}>
        {frame.viewer.name} · {people.length} of {list.total}
      </p>
      <div className={classes.scroll} tabIndex={0} role="group" aria-label="Call sheet">
        <table className={classes.sheet}>
          <thead>
            <tr>
              <th>Name</th>
              <th>Number</th>
              <th>Why</th>
              <th>Last contact</th>
              <th className={classes.notes}>Notes</th>
            </tr>
          </thead>
          <tbody>
            {people.map((person) => (
              <tr key={person.id}>
                <td>
                  <bdi>{person.name}</bdi>
                  <div className={classes.soft}>{person.toldApart ?? person.learnerId}</div>
                </td>
                <td>{person.phone ?? 'none'}</td>
                <td>
                  {person.enrolments.map((enrolment) => (
                    <div key={enrolment.course}>
                      {enrolment.course}: {enrolment.reasons[0]?.whole ?? 'no reading'}
                    </div>
                  ))}
                </td>
                <td>{person.contacts[0]?.says ?? '–'}</td>
                <td />
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}
