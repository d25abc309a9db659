'use client';

import type { NoteLine } from '@/server/contact/notes-list';
import type { Params } from '@/server/request/list';
import { PersonLink } from '../../../_people/person-link';
import { MoreRows } from '../../../_list/rows';
import { useEndless } from '../../../_list/use-endless';
import classes from '../follow-ups.module.css';
import { PinNote } from './pin-note';
import { RemoveNote } from './remove-note';

interface Props {
  lines: NoteLine[];
  /** The place after which the list goes on; null at its end. */
  next: string | null;
  params: Params;
  /** Whose own notes may be removed. */
  me: number;
}

/** Notes, newest first, going on as one scrolls. */
export function NoteList({ lines, next, params, me }: Props) {
  const { all, goesOn, more, failed, load } = useEndless(lines, next, '/lists/notes/rows', params);
  return (
    <>
      {all.map((note) => (
        <article key={note.id} className={classes.answer}>
          <div>
            <strong>
              <PersonLink learnerId={note.learnerId} name={note.name} />
            </strong>{' '}
            <span className={classes.soft}>{note.says}</span>
            <PinNote id={note.id} isPinned={note.isPinned} />
            {note.byId === me && <RemoveNote id={note.id} />}
          </div>
          <div className={classes.text} dir="auto">
            {note.body}
          </div>
        </article>
      ))}
      {goesOn && <MoreRows more={more} failed={failed} load={load} says="Older notes …" />}
    </>
  );
}
