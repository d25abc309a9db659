import type { Metadata } from 'next';
import Link from 'next/link';
import { isLead } from '@/core/staff/rights';
import { dateOfDay, dayOf } from '@/core/time/zone';
import { NOTES, notes } from '@/server/contact/notes-list';
import { listLabels, noteAuthors } from '@/server/contact/reads';
import { askedOf, controlsOf, listParams, sentencesOf, type Params } from '@/server/request/list';
import { FilterBar } from '../../../_list/filter-bar';
import { linkTo } from '../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { FollowUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../follow-ups.module.css';
import { Labels } from './labels';
import { NoteList } from './note-list';
import { Outputs } from '../../../_list/outputs';

export const metadata: Metadata = { title: 'Notes' };

const FIRST = '50';

export default async function NotesPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, NOTES);
  const { runtime, viewer } = frame;
  const given = listParams(NOTES, frame.params);
  const params: Params = { ...given, q: given.q?.slice(0, 200), label: given.label?.slice(0, 200) };
  const [labels, authors, list] = await Promise.all([
    listLabels(runtime),
    noteAuthors(runtime, viewer),
    orNotFound(notes(runtime, viewer, { ...askedOf(NOTES, params), limit: FIRST })),
  ]);
  const today = dayOf(list.now, list.zone);
  const offers = {
    authors: authors.map((name) => ({ value: name, label: name })),
    days: [
      ['today', 0],
      ['7 days ago', 7],
      ['28 days ago', 28],
    ].map(([label, ago]) => ({ value: dateOfDay(today - Number(ago)), label: String(label) })),
  };
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <div className={classes.head}>
          <h1>Notes</h1>
          <span className={classes.soft}>{list.total} · never shown to a learner</span>
          <Outputs list="notes" params={params} />
        </div>
        <FollowUpTabs />
        <FilterBar
          path={NOTES.path}
          params={params}
          sentences={sentencesOf(NOTES, params)}
          controls={controlsOf(NOTES, offers)}
          search={{ label: 'Find in notes', placeholder: 'Any part of a note or a name' }}
        />
        <div className={classes.states}>
          {labels.map(({ id, name }) => (
            <Link
              key={id}
              href={linkTo(NOTES.path, { ...params, label: name === params.label ? null : name })}
              aria-current={name === params.label ? 'true' : undefined}
            >
              {name}
            </Link>
          ))}
        </div>
        {list.rows.length === 0 ? (
          <p>
            {params.q || params.label || params.by || params.from || params.to || params.pinned
              ? 'No note matches. Take the search, the label or a filter away.'
              : 'No note has been kept yet. Press n on a learner to keep one for the next mentor.'}
          </p>
        ) : (
          <NoteList
            key={list.rows.map(({ id }) => id).join()}
            lines={list.rows.map((row) => NOTES.line(row, list))}
            next={list.next}
            params={params}
            me={viewer.staffId}
          />
        )}
        {isLead(viewer) && <Labels labels={labels} />}
      </div>
    </>
  );
}
