'use client';

import { Button, Group, Textarea } from '@mantine/core';
import { useDebouncedCallback } from '@mantine/hooks';
import { useState } from 'react';
import { CHANNEL_WORDS, channelOf, textFor, type ChannelChoice, type Recipient } from '@/core/contact/recipient';
import { fill } from '@/core/contact/template';
import { sayInstant } from '@/core/time/words';
import { saySentence, type WrittenForm } from '../actions';
import classes from './write.module.css';

interface Props {
  draftId: number;
  /** Who is shown, and how many there are. */
  current: Recipient;
  place: number;
  count: number;
  /** How many of them are here to be looked at. */
  there: number;
  text: WrittenForm;
  wanted: ChannelChoice;
  /** Until when it is held for quiet hours; null where it goes at once. */
  heldUntil: number | null;
  /** Why it does not go; null where it does. */
  stop: string | null;
  /** Does a page of a report go with it? */
  hasPage: boolean;
  now: number;
  zone: string;
  onShow: (place: number) => void;
  onLeaveOut: () => void;
  /** What is said on the page of this learner alone; null for what is said to all. */
  sentence: string | null;
  onSaid: (sentence: string | null) => void;
}

/** The message as one of its readers gets it, one after another. */
export function Preview({
  draftId,
  current,
  place,
  count,
  there,
  text,
  wanted,
  heldUntil,
  stop,
  hasPage,
  ...props
}: Props) {
  const channel = channelOf(current, wanted);
  const own = textFor(current, text);
  const isLearner = current.receiver === 'learner';
  return (
    <>
      <Group gap={6} wrap="nowrap">
        <Button variant="default" disabled={place === 0} onClick={() => props.onShow(place - 1)}>
          Previous
        </Button>
        <span className={classes.soft}>
          {place + 1} of {count}
        </span>
        <Button variant="default" disabled={place >= there - 1} onClick={() => props.onShow(place + 1)}>
          Next
        </Button>
      </Group>
      <dl className={classes.mail}>
        <dt>To</dt>
        <dd>
          <bdi>{current.to}</bdi>{' '}
          {channel === 'sms'
            ? (current.phone ?? '(no phone number)')
            : current.email
              ? `<${current.email}>`
              : '(no e-mail address)'}
        </dd>
        {!isLearner && (
          <>
            <dt>About</dt>
            <dd>
              <bdi>{current.name}</bdi>
            </dd>
          </>
        )}
        <dt>As</dt>
        <dd>
          {CHANNEL_WORDS[channel]}
          {heldUntil !== null && `, held until ${sayInstant(heldUntil, props.zone, props.now)}`}
        </dd>
        {channel === 'email' && (
          <>
            <dt>Subject</dt>
            <dd>
              <bdi>{fill(own.subject, current.facts).text}</bdi>
            </dd>
          </>
        )}
      </dl>
      <div className={classes.text} dir="auto">
        {fill(own.body, current.facts).text}
      </div>
      {hasPage && (
        <>
          <p>
            With{' '}
            <a href={`/write/${draftId}/report?to=${encodeURIComponent(current.key)}`} target="_blank">
              the page about <bdi>{current.name}</bdi> as a PDF
            </a>
          </p>
          <OwnSentence
            key={current.id}
            draftId={draftId}
            recipient={current}
            sentence={props.sentence}
            onSaid={props.onSaid}
          />
        </>
      )}
      {stop !== null && (
        <p className={classes.stop}>
          Stopped: <bdi>{current.to}</bdi> {stop}.
        </p>
      )}
      {count > 1 && (
        <Button variant="subtle" size="compact-xs" onClick={props.onLeaveOut}>
          Leave {current.to} out
        </Button>
      )}
    </>
  );
}

interface OwnSentenceProps extends Pick<Props, 'draftId' | 'sentence' | 'onSaid'> {
  recipient: Recipient;
}

/** What the writer says on one learner's page alone, saved as it is typed. */
function OwnSentence({ draftId, recipient, sentence, onSaid }: OwnSentenceProps) {
  const [written, setWritten] = useState(sentence ?? '');
  const [trouble, setTrouble] = useState<string | null>(null);
  const keep = useDebouncedCallback(
    async (next: string) => {
      const lost = { ok: false as const, says: 'The connection was lost: it is not saved yet.' };
      const said = next.trim() === '' ? null : next;
      const result = await saySentence(draftId, recipient.id, said).catch(() => lost);
      if (result.ok) onSaid(said);
      setTrouble(result.ok ? null : result.says);
    },
    { delay: 500, flushOnUnmount: true },
  );
  return (
    <Textarea
      label={`On the page of ${recipient.name} alone`}
      description="Instead of what is said on every page."
      autosize
      minRows={2}
      maxRows={8}
      maxLength={2000}
      error={trouble}
      value={written}
      onChange={(event) => {
        setWritten(event.currentTarget.value);
        keep(event.currentTarget.value);
      }}
    />
  );
}
