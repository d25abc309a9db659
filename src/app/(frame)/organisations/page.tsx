import type { Metadata } from 'next';
import Link from 'next/link';
import { redirect } from 'next/navigation';
import { sayShare } from '@/core/percent';
import { sayCount } from '@/core/time/words';
import { ORGANISATIONS, organisations, type OrganisationRow } from '@/server/people/organisations-list';
import { READY_REPORTS } from '@/server/reports/ready';
import { paramsOf } from '@/server/reports/link';
import { askedOf, listParams } from '@/server/request/list';
import { openFrame, orNotFound, type SearchParams } from '../../_frame/page-context';
import frameClasses from '../../_frame/frame.module.css';
import { CourseTabs } from '../../_frame/sections';
import { TopBar } from '../../_frame/top-bar';
import { linkTo } from '../../_list/list-link';
import { Outputs } from '../../_list/outputs';
import { SortHeads } from '../../_list/sort-heads';
import classes from '../courses/courses.module.css';

export const metadata: Metadata = { title: 'Organisations' };

const HEADS = [
  ['Organisation', 'name'],
  ['People', 'people'],
  ['Not started', 'not_started'],
  ['Under way', 'under_way'],
  ['Completed', 'completed'],
  ['Certified', 'certified'],
  ['Ended', 'ended'],
  ['Attendance', 'attendance'],
  ['Drift', 'adrift'],
] as const;

/** Each partner organisation beside the others: how far its people are, and who needs somebody now. */
export default async function OrganisationsPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, ORGANISATIONS);
  const { runtime, viewer } = frame;
  const params = listParams(ORGANISATIONS, frame.params);
  const list = await orNotFound(organisations(runtime, viewer, { ...askedOf(ORGANISATIONS, params), limit: '1000' }));
  // A partner's contact begins on the page of their own.
  const [own] = list.rows;
  if (frame.params.start === 'yes' && own && list.total === 1)
    redirect(`/organisations/${encodeURIComponent(own.name)}`);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Organisations</h1>
          <span className={classes.soft}>
            {sayCount(list.total, 'organisation')} · {sayPeople(list.rows)}
          </span>
          <Outputs list="organisations" params={params} />
        </div>
        {list.rows.length === 0 ? (
          <p>You see nobody who belongs to a partner organisation. The roster’s column “organisation” says who does.</p>
        ) : (
          <div className={classes.scroll} tabIndex={0} role="group" aria-label="Organisations">
            <table className={classes.courses}>
              <thead>
                <SortHeads
                  heads={HEADS}
                  usual="name"
                  path={ORGANISATIONS.path}
                  params={params}
                  className={classes.sort}
                />
              </thead>
              <tbody>
                {list.rows.map((row) => (
                  <Organisation key={row.id} row={row} />
                ))}
              </tbody>
            </table>
          </div>
        )}
        <p className={classes.soft}>
          Not started to ended are enrolments, each counted in one: not started without any event ever, completed with
          all that is required done or by the roster, certified where the course’s pass mark is reached as well, ended
          without completing. People are counted once.
        </p>
      </div>
    </>
  );
}

function sayPeople(rows: readonly OrganisationRow[]): string {
  return sayCount(
    rows.reduce((sum, { people }) => sum + people, 0),
    'person',
    'people',
  );
}

/** The ready report of an organisation, opened for this one. */
function reportLink(name: string): string {
  const id = 'an-organisation';
  return linkTo('/reports/choose', { ...paramsOf(READY_REPORTS[id].definition, id), in: `organisation:${name}` });
}

function Organisation({ row }: { row: OrganisationRow }) {
  const { name, people, courses, bands } = row;
  const place = `organisation:${name}`;
  const link = (band: string) => linkTo('/learners', { in: place, band });
  return (
    <tr>
      <th scope="row">
        <Link href={`/organisations/${encodeURIComponent(name)}`}>
          <bdi>{name}</bdi>
        </Link>
        <small>
          {sayCount(courses, 'course')} · <Link href={linkTo('/watch', { in: place })}>Watch</Link> ·{' '}
          <Link href={reportLink(name)}>Report</Link>
        </small>
      </th>
      <td>
        <Link href={linkTo('/learners', { in: place, status: 'all' })}>{people}</Link>
      </td>
      <td data-some={row.not_started > 0 || undefined}>{row.not_started}</td>
      <td>{row.under_way}</td>
      <td>{row.completed}</td>
      <td>{row.certified}</td>
      <td>{row.ended}</td>
      <td>
        {row.attendance === null ? <span className={classes.soft}>nothing counted</span> : sayShare(row.attendance)}
      </td>
      <td>
        <Link href={link('adrift')}>{bands.adrift} adrift</Link>
        <small>
          <Link href={link('slipping')}>{bands.slipping} slipping</Link> ·{' '}
          <Link href={link('on course')}>{bands.on_course} on course</Link>
          {bands.no_reading > 0 && ` · ${bands.no_reading} no reading`}
        </small>
      </td>
    </tr>
  );
}
