import { TableTd, TableTh, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import { ANSWER_WITHIN, LEFT_ALONE, LIKE, type Worked } from '@/core/contact/does-it-work';
import { sayShare } from '@/core/percent';
import { sayCount, sayDay, sayInstant } from '@/core/time/words';
import { dayFromDate } from '@/core/time/zone';
import { DOES_IT_WORK, LIMITS, WORKS_BY, doesItWork } from '@/server/contact/does-it-work';
import { namesOf } from '@/server/people/reads';
import { askedOf, controlsOf, listParams, sentencesOf } from '@/server/request/list';
import { fullName } from '@/core/people/name';
import { PlainTable } from '@/ui/plain-table';
import { FilterBar } from '../../../_list/filter-bar';
import { Outputs } from '../../../_list/outputs';
import { ParamSelect } from '../../../_list/param-select';
import { PersonLink } from '../../../_people/person-link';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { FollowUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../follow-ups.module.css';

export const metadata: Metadata = { title: 'Does it work?' };

const KINDS: Readonly<Record<string, string>> = {
  email: 'e-mail',
  sms: 'text message',
  call: 'call',
  meeting: 'meeting',
};

/** What came of being in touch, with those beside who stood alike and whom nobody contacted. */
export default async function DoesItWorkPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, DOES_IT_WORK);
  const { runtime, viewer } = frame;
  const params = listParams(DOES_IT_WORK, frame.params);
  const by = WORKS_BY.find((one) => one === params.by) ?? 'channel';
  const list = await orNotFound(doesItWork(runtime, viewer, { ...askedOf(DOES_IT_WORK, params), limit: '1000' }));
  const people = await namesOf(runtime, viewer, [...new Set(list.unanswered.map(({ learnerId }) => learnerId))]);
  const names = new Map(people.map((row) => [row.id, row]));
  const say = (of: string) => {
    if (by === 'channel') return KINDS[of] ?? of;
    return by === 'week' ? `week of ${sayDay(dayFromDate(of) ?? 0)}` : of;
  };
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <div className={classes.head}>
          <h1>Does it work?</h1>
          <ParamSelect
            label="By"
            name="by"
            path={DOES_IT_WORK.path}
            params={{ ...params, by }}
            choices={WORKS_BY.map((value) => ({ value, label: `by ${value}` }))}
          />
          <Outputs list="does-it-work" params={params} />
        </div>
        <FollowUpTabs />
        <FilterBar
          path={DOES_IT_WORK.path}
          params={params}
          sentences={sentencesOf(DOES_IT_WORK, params)}
          controls={controlsOf(DOES_IT_WORK, {})}
        />
        {list.all === null ? (
          <p>Nobody has been in touch with anybody in this part yet. Calls, messages and meetings are counted here.</p>
        ) : (
          <PlainTable
            label="What came of contacts"
            heads={[
              '',
              'Contacts',
              'Answered',
              'Came back',
              'The like, left alone',
              'Difference, points',
              'Days to contact',
            ]}
          >
            {list.rows.map((row) => (
              <Line key={row.of} row={row} says={say(row.of)} />
            ))}
            <Line row={list.all} says="all together" />
          </PlainTable>
        )}
        <p className={classes.soft}>
          {LIMITS} Came back is the first sign within 7 days of a contact, after a quiet of at least 3 days; answered is
          within {ANSWER_WITHIN} days. The like are learners of the same course with drift within {LIKE.drift} points
          and days quiet within {LIKE.quiet}, whom nobody contacted from {LEFT_ALONE} days before to {LEFT_ALONE} after;
          the difference is of contacts that have any. In brackets: 95 % of a rate, 90 % of a difference. Days to
          contact is the median from slipping to the first contact after it.
        </p>
        {list.unanswered.length > 0 && (
          <section>
            <h2>Contacts nobody answered</h2>
            <p className={classes.soft}>
              {sayCount(list.all!.unanswered, 'contact')} with neither an answer nor a return after {ANSWER_WITHIN} days
              {list.all!.unanswered > list.unanswered.length && `; the newest ${list.unanswered.length} are shown`}.
            </p>
            <PlainTable label="Contacts nobody answered" heads={['When', 'Learner', 'How', 'By', 'What']}>
              {list.unanswered.map((one) => {
                const person = names.get(one.learnerId);
                return (
                  <TableTr key={`${one.kind} ${one.id}`}>
                    <TableTd>{sayInstant(one.at, list.zone, list.now)}</TableTd>
                    <TableTd>{person && <PersonLink learnerId={person.learner_id} name={fullName(person)} />}</TableTd>
                    <TableTd>{KINDS[one.kind]}</TableTd>
                    <TableTd>
                      <bdi>{one.writer}</bdi>
                    </TableTd>
                    <TableTd>
                      <bdi>{one.subject}</bdi>
                    </TableTd>
                  </TableTr>
                );
              })}
            </PlainTable>
          </section>
        )}
      </div>
    </>
  );
}

/** "−4" for minus four: in points of per cent. */
const sayPoints = (value: number) => {
  const points = Math.round(value * 100);
  if (points === 0) return '0';
  return points < 0 ? `−${-points}` : `+${points}`;
};

function Line({ row, says }: { row: Worked; says: string }) {
  const { contacts, answered, returned, rate, interval, like, withoutLike, difference, daysToContact } = row;
  const fewer = Math.round(100 * (interval.low ?? 0));
  const more = Math.round(100 * (interval.high ?? 0));
  return (
    <TableTr>
      <TableTh scope="row">
        <bdi>{says}</bdi>
      </TableTh>
      <TableTd>{contacts}</TableTd>
      <TableTd>{answered}</TableTd>
      <TableTd>
        {returned}, {sayShare(rate)}{' '}
        <span className={classes.soft}>
          ({fewer} to {more} %)
        </span>
      </TableTd>
      <TableTd>
        {like.rate === null ? 'none' : sayShare(like.rate)}{' '}
        {withoutLike > 0 && <span className={classes.soft}>({sayCount(withoutLike, 'contact')} without)</span>}
      </TableTd>
      <TableTd>
        {difference.value === null ? (
          ''
        ) : (
          <>
            {sayPoints(difference.value)}{' '}
            <span className={classes.soft}>
              ({sayPoints(difference.low ?? difference.value)} to {sayPoints(difference.high ?? difference.value)})
            </span>
          </>
        )}
      </TableTd>
      <TableTd>{daysToContact === null ? '' : Math.round(daysToContact * 10) / 10}</TableTd>
    </TableTr>
  );
}
