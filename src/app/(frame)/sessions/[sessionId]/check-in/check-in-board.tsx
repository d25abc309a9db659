'use client';

import { Button, Switch } from '@mantine/core';
import { useCallback, useEffect, useRef, useState } from 'react';
import { sayTime } from '@/core/time/words';
import type { CheckInScreen } from '@/server/sessions/check-in';
import { useAction } from '../../../../_frame/use-action';
import { PersonLink } from '../../../../_people/person-link';
import { acceptCheckIn, closeRoll, reopenRoll } from '../../actions';
import classes from './check-in.module.css';
import '@mantine/core/styles/Switch.layer.css';

interface Props {
  sessionId: string;
  title: string;
  /** Where the learner's page is. */
  address: string;
  qr: string;
  first: CheckInScreen;
  zone: string;
}

/** How often who is in is asked for while the digits stand, in ms. */
const ASK = 3000;

/** Devices of one network and browser from which on it is said. */
const MANY_ALIKE = 5;

const STATES: Record<CheckInScreen['state'], string> = {
  early: 'Opens ten minutes before the session',
  open: 'Open',
  late: 'Open · whoever comes now is late',
  over: 'The session is over',
  off: 'Cancelled',
};

/** The screen to project: a large code, six digits that change, how many are in; names only where they are wanted. */
export function CheckInBoard({ sessionId, title, address, qr, first, zone }: Props) {
  const [screen, setScreen] = useState(first);
  const [names, setNames] = useState(false);
  const [lost, setLost] = useState(false);
  const board = useRef<HTMLDivElement>(null);
  const { pending, run } = useAction();
  const ask = useCallback(async () => {
    try {
      const answer = await fetch(`/sessions/${encodeURIComponent(sessionId)}/check-in/now`);
      if (!answer.ok) throw new Error(String(answer.status));
      setScreen(await answer.json());
      setLost(false);
    } catch {
      setLost(true);
    }
  }, [sessionId]);
  useEffect(() => {
    // When the digits change, and now and then between.
    const timer = setTimeout(() => void ask(), Math.min(screen.lasts + 50, ASK));
    return () => clearTimeout(timer);
  }, [screen, ask]);
  useEffect(() => {
    if (!lost) return;
    const timer = setInterval(() => void ask(), ASK);
    return () => clearInterval(timer);
  }, [lost, ask]);
  const isOpen = screen.state === 'open' || screen.state === 'late';
  const accept = (learnerId: string) =>
    run(() => acceptCheckIn(sessionId, learnerId), { done: 'Let in', then: () => void ask() });
  const close = () =>
    run(() => closeRoll(sessionId), {
      done: 'The roll is taken',
      undo: ({ absent }) => reopenRoll(sessionId, absent),
      then: () => void ask(),
    });
  const mayClose = screen.inside.length > 0 && !screen.isClosed && (screen.state === 'late' || screen.state === 'over');
  return (
    <>
      <div className={classes.tools}>
        <Button onClick={() => void board.current?.requestFullscreen()}>Fill the screen</Button>
        <Switch label="Show names" checked={names} onChange={(event) => setNames(event.currentTarget.checked)} />
        {mayClose && (
          <Button variant="default" loading={pending} onClick={close}>
            {screen.inside.length} in, {screen.without} not: take it as the roll
          </Button>
        )}
        {lost && <strong role="alert">The connection is lost: the digits may be old.</strong>}
      </div>
      <div ref={board} className={classes.board}>
        <div className={classes.code}>
          <img src={qr} alt={`QR code of ${address}`} />
        </div>
        <div className={classes.words}>
          <p className={classes.title}>{title}</p>
          <p className={classes.address}>{address.replace(/^https?:\/\//, '')}</p>
          <p className={classes.digits} aria-live="off">
            {isOpen ? `${screen.code.slice(0, 3)} ${screen.code.slice(3)}` : '– – –'}
          </p>
          <p className={classes.state}>{STATES[screen.state]}</p>
          <p className={classes.count} role="status">
            <strong>{screen.inside.length}</strong> of {screen.expected} in
          </p>
        </div>
        {names && (
          <ul className={classes.names} aria-label="Who is in">
            {screen.inside.map(({ name, at }) => (
              <li key={`${name} ${at}`}>
                <bdi>{name}</bdi> <span>{sayTime(at, zone)}</span>
              </li>
            ))}
          </ul>
        )}
      </div>
      {screen.alike >= MANY_ALIKE && (
        <p role="note">
          {screen.alike} devices of one network and one kind of browser have checked people in. That may be a room full
          of the same tablets, or one person.
        </p>
      )}
      {screen.refused.length > 0 && (
        <section className={classes.refused} aria-label="Refused">
          <h2>Refused: their device had checked in somebody else</h2>
          <ul>
            {screen.refused.map((one) => (
              <li key={one.learner_id}>
                <PersonLink learnerId={one.learner_id} name={one.name} /> {sayTime(one.at, zone)}{' '}
                <Button
                  size="compact-xs"
                  variant="default"
                  loading={pending}
                  onClick={() => accept(one.learner_id)}
                  aria-label={`Let ${one.name} in`}
                >
                  Let in
                </Button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}
