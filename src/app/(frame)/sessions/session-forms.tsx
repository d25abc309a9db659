'use client';

import { Button } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useRouter } from 'next/navigation';
import type { Planned } from '@/server/sessions/timetable';
import type { ChangeSessionInput, NewSessionInput, CancelInput } from '@/server/sessions/timetable-input';
import type { FormOf } from '@/server/request/input';
import { sayCount } from '@/core/time/words';
import { FormButton } from '../../_frame/form-button';
import { choicesOf } from '../../_frame/choices';
import type { Field } from '../../_frame/form-field';
import { offerUndo } from '../../_frame/offer-undo';
import { useAction } from '../../_frame/use-action';
import {
  cancelSessions,
  changeSession,
  deleteSessions,
  reinstateSessions,
  planSessions,
  undoPlanning,
} from './actions';

interface Choice {
  value: string;
  label: string;
}

const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const;
const MODES = choicesOf({ online: 'online', in_person: 'in person' });
const NOBODY: Choice = { value: '', label: 'nobody yet' };

/** Says what became of a change, with its undo, what stayed and what is in the way. */
function usePlanned() {
  const { pending, run } = useAction();
  const undo = (change: number) => run(() => undoPlanning(change), { done: 'Undone' });
  const said = (done: string) => (planned: Planned) => {
    if (planned.sessions > 0) offerUndo(`${sayCount(planned.sessions, 'session')} ${done}`, () => undo(planned.change));
    if (planned.left.length > 0) {
      notifications.show({
        title: 'Left as they are',
        message: planned.left.join(' · '),
        autoClose: 15_000,
        color: 'yellow',
      });
    }
    if (planned.clashes.length > 0) {
      const title = 'In the way of another';
      notifications.show({ title, message: planned.clashes.join(' · '), autoClose: 20_000, color: 'yellow' });
    }
  };
  return { pending, run, said };
}

const TIMES: readonly Field<{ starts: string; ends: string }>[] = [
  { name: 'starts', label: 'Begins', placeholder: '18:30', most: 12 },
  { name: 'ends', label: 'Ends', placeholder: '19:45', most: 12 },
];

interface PlanProps {
  parts: Choice[];
  instructors: Choice[];
  /** The day that the form begins with. */
  day: string;
  part: string | null;
}

/** Adds one session or a weekly series. */
export function PlanSessions({ parts, instructors, day, part }: PlanProps) {
  const { said } = usePlanned();
  if (parts.length === 0) return null;
  const isWeekly = (form: FormOf<NewSessionInput>) => form.repeat === 'weekly';
  return (
    <FormButton<FormOf<NewSessionInput>, Planned>
      label="Add sessions…"
      button={{ variant: 'filled' }}
      title="Add sessions"
      says="Times are by the clock on the wall, also when the clocks change. A course’s breaks are left out."
      verb="Add"
      fields={[
        { name: 'part', label: 'For', type: 'choice', choices: parts },
        { name: 'title', label: 'Title', placeholder: 'Evening session', most: 200 },
        {
          name: 'repeat',
          label: 'How often',
          type: 'radio',
          choices: choicesOf({ once: 'once', weekly: 'every week' }),
        },
        { name: 'from', label: 'Day, or the first of them', type: 'day' },
        { name: 'until', label: 'Until, this day included', type: 'day', shown: isWeekly },
        { name: 'days', label: 'On these days', type: 'labels', names: WEEKDAYS, shown: isWeekly },
        ...(TIMES as Field<FormOf<NewSessionInput>>[]),
        { name: 'mode', label: 'How', type: 'radio', choices: MODES },
        { name: 'place', label: 'Place or link (may be left out)', most: 1000 },
        { name: 'instructor', label: 'Given by', type: 'choice', choices: [NOBODY, ...instructors] },
      ]}
      values={{
        part: part && parts.some(({ value }) => value === part) ? part : parts[0].value,
        repeat: 'once',
        from: day,
        mode: 'online',
      }}
      keep={planSessions}
      onDone={said('added')}
    />
  );
}

interface ChangeProps {
  sessionId: string;
  form: Omit<FormOf<ChangeSessionInput>, 'reaches'>;
  instructors: Choice[];
  /** Is it one of a series? */
  inSeries: boolean;
}

/** Changes or moves a session, this and the later ones of its series, or all of them. */
export function ChangeSession({ sessionId, form, instructors, inSeries }: ChangeProps) {
  const { said } = usePlanned();
  const reaches = choicesOf({ this: 'this one', later: 'this and the later ones', all: 'all of the series' });
  return (
    <FormButton<FormOf<ChangeSessionInput>, Planned>
      label="Change…"
      title="Change the session"
      says={
        inSeries ? 'Those with a roll, presence or a change of their own stay as they are, and are named.' : undefined
      }
      verb="Save"
      fields={[
        { name: 'reaches', label: 'Changes', type: 'radio', choices: reaches, shown: () => inSeries },
        { name: 'title', label: 'Title', most: 200 },
        { name: 'from', label: 'Day', type: 'day' },
        ...(TIMES as Field<FormOf<ChangeSessionInput>>[]),
        { name: 'mode', label: 'How', type: 'radio', choices: MODES },
        { name: 'place', label: 'Place or link', most: 1000 },
        { name: 'instructor', label: 'Given by', type: 'choice', choices: [NOBODY, ...instructors] },
      ]}
      values={{ ...form, reaches: 'this' }}
      keep={(values) => changeSession(sessionId, values)}
      onDone={said('changed')}
    />
  );
}

interface SomeProps {
  ids: string[];
  /** Are all of them cancelled? */
  areOff: boolean;
  /** Where to go when they are deleted; nowhere on a list. */
  after?: string;
}

/** Cancels sessions, reinstates them, or deletes them. */
export function SessionActions({ ids, areOff, after }: SomeProps) {
  const router = useRouter();
  const { pending, run, said } = usePlanned();
  const remove = () =>
    run(() => deleteSessions(ids), {
      failed: 'Nothing was deleted',
      then: (planned) => {
        said('deleted')(planned);
        if (after && planned.sessions > 0) router.push(after);
      },
    });
  return (
    <>
      {areOff ? (
        <Button
          variant="default"
          loading={pending}
          onClick={() => run(() => reinstateSessions(ids), { then: said('reinstated') })}
        >
          Reinstate
        </Button>
      ) : (
        <FormButton<FormOf<CancelInput>, Planned>
          label="Cancel…"
          title={ids.length === 1 ? 'Cancel the session' : `Cancel ${ids.length} sessions`}
          says="It stays in the timetable with its reason, and counts for nobody."
          verb="Cancel the session"
          fields={[{ name: 'reason', label: 'Why', placeholder: 'storm', most: 200 }]}
          values={{}}
          keep={(form) => cancelSessions(ids, form)}
          onDone={said('cancelled')}
        />
      )}
      <Button variant="default" loading={pending} onClick={remove}>
        Delete
      </Button>
    </>
  );
}
