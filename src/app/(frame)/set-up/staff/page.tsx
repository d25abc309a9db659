import type { Metadata } from 'next';
import { sayCount } from '@/core/time/words';
import { segmentChoices } from '@/server/courses/reads';
import { namesOfKind } from '@/server/courses/segments';
import { coursesWithGroups } from '@/server/people/reads';
import { everyToken } from '@/server/staff/own-tokens';
import { GIVEN, rulesFor, sayRule } from '@/server/staff/provider/rules';
import { emergency, listStaff, secondRoles } from '@/server/staff/reads';
import { openFrame, requireLead, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { SetUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../set-up.module.css';
import { EveryToken } from './every-token';
import { SecondRoles } from './second-roles';
import { SingleSignOn } from './single-sign-on';
import { StaffList } from './staff-list';

export const metadata: Metadata = { title: 'Staff' };

export default async function StaffPage({ searchParams }: { searchParams: SearchParams }) {
  await requireLead();
  const frame = await openFrame(searchParams);
  const [staff, courses, parts, roles, tokens, rules, only] = await Promise.all([
    listStaff(frame.runtime, frame.viewer),
    coursesWithGroups(frame.runtime),
    segmentChoices(frame.runtime, frame.viewer),
    secondRoles(frame.runtime),
    everyToken(frame.runtime, frame.viewer),
    rulesFor(frame.runtime, frame.viewer),
    emergency(frame.runtime),
  ]);
  const { provider } = frame.runtime.settings;
  const targets = {
    course: courses.map((course) => course.code),
    group: courses.flatMap((course) => course.groups.map((group) => `${course.code}/${group}`)),
    organisation: namesOfKind(parts, 'organisation').map(({ value }) => value),
  };
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <div className={classes.head}>
          <h1>Staff</h1>
          <span className={classes.soft}>
            {sayCount(staff.filter((one) => one.ended_at === null).length, 'person', 'people')}
          </span>
        </div>
        <SetUpTabs />
        <p className={classes.soft}>
          A role says what somebody may do; their scopes say whom they see. Somebody without a scope sees nobody.
        </p>
        <StaffList
          staff={staff}
          targets={targets}
          mayChange={frame.viewer.standInKey === null}
          now={frame.runtime.clock.now()}
          zone={frame.runtime.zone}
        />
        <section className={classes.section}>
          <h2>Second factor</h2>
          <SecondRoles roles={roles} />
        </section>
        {provider !== null && (
          <section className={classes.section} id="single-sign-on">
            <h2>Single sign-on by {provider.name}</h2>
            <SingleSignOn
              rules={rules.map((rule) => ({ id: rule.id, says: sayRule(rule) }))}
              gives={GIVEN}
              targets={targets}
              leads={staff
                .filter((one) => one.ended_at === null && one.signs_in && one.role === 'lead')
                .map((one) => ({ value: String(one.id), label: one.name }))}
              only={only === null ? '' : String(only)}
            />
          </section>
        )}
        <section className={classes.section} id="tokens">
          <h2>Tokens for programs</h2>
          <EveryToken tokens={tokens} now={frame.runtime.clock.now()} zone={frame.runtime.zone} />
        </section>
      </div>
    </>
  );
}
