import type { Metadata } from 'next';
import { coursesWithGroups } from '@/server/people/reads';
import { platformsFor } from '@/server/staff/platform/platforms';
import { openFrame, requireLead, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { SetUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../set-up.module.css';
import { AddPlatform, EndPlatform } from './platform-actions';
import { PlatformCourses } from './platform-courses';

export const metadata: Metadata = { title: 'Platforms' };

/** Course platforms from which people come in, and which of their courses is which here. */
export default async function PlatformsPage({ searchParams }: { searchParams: SearchParams }) {
  await requireLead();
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const [{ platforms, courses, url }, own] = await Promise.all([
    platformsFor(runtime, viewer),
    coursesWithGroups(runtime),
  ]);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <h1>Platforms</h1>
        <SetUpTabs />
        <p className={classes.soft}>
          Whoever teaches a course on a platform may open Lee Shore from there (LTI 1.3), without a password, and comes
          to their course. Its members can be read as the roster, once a day.
        </p>
        {url === null ? (
          <p>Lee Shore has to know its own address first: the setting LEESHORE_URL.</p>
        ) : (
          <section>
            <h2>What a platform has to know</h2>
            <dl className={classes.addresses}>
              <dt>To begin a sign-in</dt>
              <dd>{`${url}/lti/login`}</dd>
              <dt>To launch, and to be sent back to</dt>
              <dd>{`${url}/lti/launch`}</dd>
              <dt>Public keys</dt>
              <dd>{`${url}/lti/keys`}</dd>
            </dl>
            <p className={classes.soft}>
              Have it send names and e-mail addresses, and open in a window of its own: browsers keep what is inside of
              another page from being known again.
            </p>
          </section>
        )}
        <section className={classes.section}>
          <h2>Platforms that are known</h2>
          {platforms.length === 0 && <p>None yet.</p>}
          <ul className={classes.gaps}>
            {platforms.map(({ id, name, issuer, client_id, deployments, vouches_for_email }) => (
              <li key={id}>
                <span>
                  <strong>
                    <bdi>{name}</bdi>
                  </strong>
                  : <bdi>{issuer}</bdi>, client <bdi>{client_id}</bdi>, deployments <bdi>{deployments}</bdi>
                  {vouches_for_email === 1 ? ', its e-mail addresses are believed' : ''}
                </span>
                <EndPlatform id={id} name={name} />
              </li>
            ))}
          </ul>
          {url !== null && <AddPlatform />}
        </section>
        <section className={classes.section}>
          <h2>Courses there</h2>
          {courses.length === 0 ? (
            <p>None yet: a course is here once somebody has opened Lee Shore from it.</p>
          ) : (
            <PlatformCourses
              courses={courses.map((course) => ({
                ...course,
                platform: platforms.find(({ id }) => id === course.platform_id)?.name ?? '',
                hasRoster:
                  course.members_url !== null &&
                  platforms.some(({ id, token_url }) => id === course.platform_id && token_url !== ''),
              }))}
              own={own.map(({ code }) => code)}
              now={runtime.clock.now()}
              zone={runtime.zone}
            />
          )}
        </section>
      </div>
    </>
  );
}
