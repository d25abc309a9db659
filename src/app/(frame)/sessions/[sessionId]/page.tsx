import type { Metadata } from 'next';
import { orNotFound, openFrame, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import Link from 'next/link';
import { Outputs } from '../../../_list/outputs';
import { TopBar } from '../../../_frame/top-bar';
import { linkTo } from '../../../_list/list-link';
import { openSession } from '@/server/sessions/session';
import { planningChoices } from '@/server/sessions/planning-form';
import { PresenceTable } from './presence-table';
import { SessionHead } from './session-head';
import { Unmatched } from './unmatched';
import classes from '../sessions.module.css';

export const metadata: Metadata = { title: 'Session' };

interface Props {
  params: Promise<{ sessionId: string }>;
  searchParams: SearchParams;
}

export default async function SessionPage({ params, searchParams }: Props) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer, view } = frame;
  const sessionId = decodeURIComponent((await params).sessionId);
  const opened = await orNotFound(openSession(runtime, viewer, sessionId, view.segment));
  const { clock, zone } = runtime;
  const now = clock.now();
  const { session, people, unmatched, others, marks, mayTake, rules, hasPresence } = opened;
  const { instructors } = opened.mayPlan ? await planningChoices(runtime, viewer) : { instructors: [] };
  const withFacts = frame.params.facts === 'yes';
  const isOn = session.starts_at <= now && session.ends_at > now && session.cancelled === 0;
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <SessionHead opened={opened} instructors={instructors} now={now} zone={zone} />
        {unmatched.length + others.length > 0 && (
          <Unmatched
            sessionId={sessionId}
            rows={unmatched}
            others={others}
            people={people.map(({ learner_id, name, group }) => ({ learnerId: learner_id, name, group }))}
            zone={zone}
            namesHidden={viewer.standInKey !== null}
          />
        )}
        {!hasPresence && !isOn && (
          <p>
            {session.starts_at > now
              ? 'It has not begun. Who comes and goes is shown here once it has.'
              : 'There is no presence of this session: the record of the meeting comes in by its file, or from the meeting by itself.'}
            {mayTake && session.cancelled === 0 && session.starts_at <= now && ' Its roll can be taken without one.'}
          </p>
        )}
        {people.length > 0 && session.cancelled === 0 && (
          <PresenceTable
            key={session.session_id}
            session={{ sessionId, starts: session.starts_at, ends: session.ends_at }}
            people={people.map((person) => ({
              id: person.id,
              learnerId: person.learner_id,
              name: person.name,
              group: person.is_guest ? person.group : null,
              mark: person.mark,
              source: person.source,
              differs: person.differs,
              change: person.change,
              presence: person.presence,
              suggested: person.suggested,
              checkedIn: person.checked_in_at,
            }))}
            marks={marks.map(({ code, label, credit, counts, ended_at }) => ({
              code,
              label,
              credit,
              counts: counts === 1,
              ended: ended_at !== null,
            }))}
            mayTake={mayTake}
            hasPresence={hasPresence}
            isOn={isOn}
            version={opened.version}
            now={now}
            zone={zone}
          />
        )}
        <p className={classes.soft}>
          Under {Math.round(rules.absentUnder * 100)} % of the time is absent; {Math.round(rules.presentFrom * 100)} %
          or more is present, or late for who came later than {rules.graceMinutes} min after the start; anything between
          is partial. Suggestions count for nobody until somebody takes the roll.
        </p>
        <Outputs list={`/sessions/${encodeURIComponent(sessionId)}/file`} params={{ facts: withFacts ? 'yes' : 'no' }}>
          <Link
            scroll={false}
            href={linkTo(`/sessions/${encodeURIComponent(sessionId)}`, {
              ...frame.params,
              facts: withFacts ? null : 'yes',
            })}
          >
            {withFacts ? 'Leave the session out of each row' : 'Name the session in each row'}
          </Link>
        </Outputs>
      </div>
    </>
  );
}
