import { Button, TableTd, TableTh, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import { ANSWER_WITHIN, type Worked } from '@/core/contact/does-it-work';
import {
  CONTACT_KINDS,
  WORKS_HEADS,
  WORKS_LIMITS,
  WORKS_SAYS,
  sayWorked,
  sayWorksOf,
} from '@/core/contact/works-words';
import { sayCount, sayInstant } from '@/core/time/words';
import { DOES_IT_WORK, WORKS_BY, doesItWork } from '@/server/contact/does-it-work';
import { namesOf } from '@/server/people/reads';
import { askedOf, controlsOf, listParams, sentencesOf } from '@/server/request/list';
import { fullName } from '@/core/people/name';
import { PlainTable } from '@/ui/plain-table';
import { FilterBar } from '../../../_list/filter-bar';
import { linkTo } from '../../../_list/list-link';
import { Outputs } from '../../../_list/outputs';
import { ParamSelect } from '../../../_list/param-select';
import { PersonLink } from '../../../_people/person-link';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { FollowUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../follow-ups.module.css';

export const metadata: Metadata = { title: 'Does it work?' };

/** What came of being in touch, with those beside who stood alike and whom nobody contacted. */
export default async function DoesItWorkPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, DOES_IT_WORK);
  const { runtime, viewer } = frame;
  const params = listParams(DOES_IT_WORK, frame.params);
  const by = WORKS_BY.find((one) => one === params.by) ?? 'channel';
  const list = await orNotFound(doesItWork(runtime, viewer, { ...askedOf(DOES_IT_WORK, params), limit: '1000' }));
  const people = await namesOf(runtime, viewer, [...new Set(list.unanswered.map(({ learnerId }) => learnerId))]);
  const names = new Map(people.map((row) => [row.id, row]));
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
          <Outputs list="does-it-work" params={params}>
            <Button
              component="a"
              variant="default"
              size="compact-sm"
              href={linkTo(`${DOES_IT_WORK.path}/report`, params)}
            >
              PDF
            </Button>
          </Outputs>
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
          <PlainTable label="What came of contacts" heads={['', ...WORKS_HEADS]}>
            {list.rows.map((row) => (
              <Line key={row.of} row={row} says={sayWorksOf(by, row.of)} />
            ))}
            <Line row={list.all} says="all together" />
          </PlainTable>
        )}
        <p className={classes.soft}>
          {WORKS_LIMITS} {WORKS_SAYS}
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
                    <TableTd>{CONTACT_KINDS[one.kind]}</TableTd>
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

function Line({ row, says }: { row: Worked; says: string }) {
  return (
    <TableTr>
      <TableTh scope="row">
        <bdi>{says}</bdi>
      </TableTh>
      {sayWorked(row).map((cell, index) => (
        <TableTd key={WORKS_HEADS[index]}>
          {cell.says} {cell.beside !== '' && <span className={classes.soft}>({cell.beside})</span>}
        </TableTd>
      ))}
    </TableTr>
  );
}
