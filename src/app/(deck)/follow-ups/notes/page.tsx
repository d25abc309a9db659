import type { Metadata } from 'next';
import Link from 'next/link';
import { sayInstant } from '@/core/time/words';
import { findNotes, listLabels } from '@/server/contact/reads';
import { isLead } from '@/core/staff/rights';
import { linkTo } from '../../../_deck/list-link';
import { openDeck, type SearchParams } from '../../../_deck/page-context';
import deckClasses from '../../../_deck/deck.module.css';
import { FollowUpTabs } from '../../../_deck/sections';
import { TopBar } from '../../../_deck/top-bar';
import classes from '../follow-ups.module.css';
import { Labels } from './labels';
import { NoteSearch } from './note-search';
import { RemoveNote } from './remove-note';

export const metadata: Metadata = { title: 'Notes' };

const PAGE = 50;

export default async function NotesPage({ searchParams }: { searchParams: SearchParams }) {
  const deck = await openDeck(searchParams);
  const { runtime, viewer, view, params } = deck;
  const { zone } = runtime;
  const page = Math.max(1, Math.floor(Number(params.page)) || 1);
  const q = params.q?.slice(0, 200) ?? '';
  const label = params.label;
  const [labels, { rows, total }] = await Promise.all([
    listLabels(runtime),
    findNotes(runtime, view, { q, label, limit: PAGE, offset: (page - 1) * PAGE }),
  ]);
  const link = (changes: Record<string, string | null>) =>
    linkTo('/follow-ups/notes', { in: deck.lensKey, q, label: label ?? null, ...changes });
  return (
    <>
      <TopBar deck={deck} present />
      <div className={deckClasses.page}>
        <div className={classes.head}>
          <h1>Notes</h1>
          <span className={classes.soft}>{total} · never shown to a learner</span>
        </div>
        <FollowUpTabs />
        <div className={classes.states}>
          <NoteSearch q={q} part={deck.lensKey} label={label ?? null} />
          {labels.map(({ id, name }) => (
            <Link
              key={id}
              href={link({ label: name === label ? null : name })}
              aria-current={name === label ? 'true' : undefined}
            >
              {name}
            </Link>
          ))}
        </div>
        {rows.length === 0 && (
          <p>
            {q || label
              ? 'No note matches. Take the search or the label away.'
              : 'No note has been kept yet. Press n on a learner to keep one for the next mentor.'}
          </p>
        )}
        {rows.map((note) => (
          <article key={note.id} className={classes.answer}>
            <div>
              <strong>
                <Link href={`/learners/${encodeURIComponent(note.learner_id)}`}>
                  <bdi>{note.name}</bdi>
                </Link>
              </strong>{' '}
              <span className={classes.soft}>
                {note.by} · {sayInstant(note.at, zone, view.now)}
                {note.audience === 'self' && ' · for yourself'}
                {note.labels.length > 0 && ` · ${note.labels.join(', ')}`}
              </span>
              {note.by_id === viewer.staffId && <RemoveNote id={note.id} />}
            </div>
            <div className={classes.text} dir="auto">
              {note.body}
            </div>
          </article>
        ))}
        <nav className={classes.states} aria-label="Pages">
          {page > 1 && <Link href={link({ page: String(page - 1) })}>Newer</Link>}
          {page * PAGE < total && <Link href={link({ page: String(page + 1) })}>Older</Link>}
        </nav>
        {isLead(viewer) && <Labels labels={labels} />}
      </div>
    </>
  );
}
