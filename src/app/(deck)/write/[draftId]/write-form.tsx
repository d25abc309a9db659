'use client';

import { Alert, Button, Checkbox, Group, TextInput, Textarea } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useDebouncedCallback } from '@mantine/hooks';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useRef, useState, useTransition } from 'react';
import { whatStops, type Recipient } from '@/core/followup/recipient';
import { MESSAGE_FIELDS, fill, unknownFields } from '@/core/followup/template';
import { sayCount, sayDaysAgo } from '@/core/time/words';
import { keepText, removeFromDraft, send, undo } from '../actions';
import classes from './write.module.css';

interface Props {
  draftId: number;
  subject: string;
  body: string;
  sent: boolean;
  recipients: Recipient[];
  back: string;
  now: number;
  zone: string;
}

/** One text, each person's own message: written, previewed, checked, sent. */
export function WriteForm({ draftId, back, now, zone, ...given }: Props) {
  const [text, setText] = useState({ subject: given.subject, body: given.body });
  const [recipients, setRecipients] = useState(given.recipients);
  const [shown, setShown] = useState(0);
  const [confirmed, setConfirmed] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [pending, startTransition] = useTransition();
  const bodyRef = useRef<HTMLTextAreaElement>(null);
  const router = useRouter();
  const keep = useDebouncedCallback((next: typeof text) => void keepText(draftId, next), 800);

  const change = (next: typeof text) => {
    setText(next);
    keep(next);
  };
  const insert = (field: string) => {
    const area = bodyRef.current;
    const at = area?.selectionStart ?? text.body.length;
    change({ ...text, body: `${text.body.slice(0, at)}{{${field}}}${text.body.slice(area?.selectionEnd ?? at)}` });
    area?.focus();
  };
  const leaveOut = (recipient: Recipient) => {
    setRecipients(recipients.filter((one) => one.id !== recipient.id));
    setShown(0);
    startTransition(() => removeFromDraft(draftId, recipient.id));
  };

  const unknown = [...unknownFields(text.subject), ...unknownFields(text.body)];
  const stops = new Map(recipients.map((recipient) => [recipient.id, whatStops(recipient, text)]));
  const ready = recipients.filter((recipient) => stops.get(recipient.id) === null);
  const stopped = recipients.filter((recipient) => stops.get(recipient.id) !== null);
  const contacted = ready.filter((recipient) => recipient.contacted !== null);
  const current = recipients[shown] ?? recipients[0];

  const go = () =>
    startTransition(async () => {
      setTrouble(null);
      const result = await send(draftId, text, confirmed ? contacted.map((one) => one.id) : []);
      if (result.outcome === 'invalid') {
        setTrouble(result.errors.map((error) => `The ${error.field} ${error.message}.`).join(' '));
      } else if (result.outcome === 'contacted') {
        setTrouble(
          `Nothing was sent. Somebody wrote to ${result.names.join(', ')} in the last 5 days. Look again, then confirm or leave them out.`,
        );
        router.refresh();
      } else if (result.outcome === 'nobody') {
        setTrouble('Nothing was sent: every message is stopped.');
      } else {
        told(result.queued);
        router.push(back);
      }
    });

  const told = (count: number) => {
    const id = `draft-${draftId}`;
    notifications.show({
      id,
      title: `${sayCount(count, 'message')} on the way`,
      message: (
        <Button
          variant="default"
          mt={4}
          onClick={async () => {
            const undone = await undo(draftId);
            notifications.update({
              id,
              title: undone ? 'Taken back' : 'Too late to take back',
              message: undone ? 'Nothing was sent; the text is kept.' : 'At least one message has gone.',
            });
            if (undone) router.push(`/write/${draftId}?from=${encodeURIComponent(back)}`);
          }}
        >
          Undo
        </Button>
      ),
    });
  };

  if (given.sent) {
    return (
      <>
        <h1>This message has been sent</h1>
        <p>
          It stands in each learner’s record and under <Link href="/follow-ups/messages">Messages</Link>.
        </p>
        <Link href={back}>Back</Link>
      </>
    );
  }
  return (
    <div className={classes.split}>
      <div>
        <Group justify="space-between" mb="sm">
          <h1>Write to {recipients.length === 1 ? recipients[0].name : sayCount(recipients.length, 'learner')}</h1>
          <Link href={back}>Back without sending</Link>
        </Group>
        <TextInput
          label="Subject"
          value={text.subject}
          maxLength={200}
          onChange={(event) => change({ ...text, subject: event.currentTarget.value })}
        />
        <Textarea
          ref={bodyRef}
          label="Text"
          mt="sm"
          autosize
          minRows={9}
          maxRows={22}
          value={text.body}
          maxLength={20_000}
          onChange={(event) => change({ ...text, body: event.currentTarget.value })}
        />
        <Group gap={6} mt={6} role="group" aria-label="Put a field into the text">
          <span className={classes.soft}>Put in:</span>
          {Object.entries(MESSAGE_FIELDS).map(([field, words]) => (
            <Button key={field} variant="default" size="compact-xs" onClick={() => insert(field)}>
              {words}
            </Button>
          ))}
        </Group>
        {unknown.length > 0 && (
          <Alert color="red" mt="sm" role="alert">
            There is no field {unknown.join(', ')}. Choose one of {Object.keys(MESSAGE_FIELDS).join(', ')}.
          </Alert>
        )}
        {contacted.length > 0 && (
          <Alert color="yellow" mt="sm">
            <p className={classes.warning}>
              Contacted in the last 5 days:{' '}
              {contacted.map((one) => `${one.name} (${sayDaysAgo(one.contacted!, now, zone)})`).join(', ')}.
            </p>
            <Checkbox
              label={`Write to ${contacted.length === 1 ? 'them' : `these ${contacted.length}`} all the same`}
              checked={confirmed}
              onChange={(event) => setConfirmed(event.currentTarget.checked)}
            />
          </Alert>
        )}
        {stopped.length > 0 && (text.subject !== '' || text.body !== '') && (
          <Alert color="red" mt="sm">
            <p className={classes.warning}>
              {sayCount(stopped.length, 'message is stopped', 'messages are stopped')} and will not go:
            </p>
            <ul className={classes.stopped}>
              {stopped.slice(0, 20).map((recipient) => (
                <li key={recipient.id}>
                  <bdi>{recipient.name}</bdi> {stops.get(recipient.id)}
                </li>
              ))}
              {stopped.length > 20 && <li>and {stopped.length - 20} more</li>}
            </ul>
          </Alert>
        )}
        {trouble && (
          <Alert color="red" mt="sm" role="alert">
            {trouble}
          </Alert>
        )}
        <Button
          mt="md"
          size="sm"
          loading={pending}
          disabled={
            ready.length === 0 ||
            unknown.length > 0 ||
            !text.subject.trim() ||
            !text.body.trim() ||
            (contacted.length > 0 && !confirmed)
          }
          onClick={go}
        >
          Send {sayCount(ready.length, 'message')}
        </Button>
      </div>
      <section className={classes.preview} aria-label="Preview">
        <h2>As each will read it</h2>
        {current && (
          <>
            <Group gap={6} wrap="nowrap">
              <Button variant="default" disabled={shown === 0} onClick={() => setShown(shown - 1)}>
                Previous
              </Button>
              <span className={classes.soft}>
                {shown + 1} of {recipients.length}
              </span>
              <Button variant="default" disabled={shown >= recipients.length - 1} onClick={() => setShown(shown + 1)}>
                Next
              </Button>
            </Group>
            <dl className={classes.mail}>
              <dt>To</dt>
              <dd>
                <bdi>{current.name}</bdi> {current.email ? `<${current.email}>` : '(no e-mail address)'}
              </dd>
              <dt>Subject</dt>
              <dd>
                <bdi>{fill(text.subject, current.facts).text}</bdi>
              </dd>
            </dl>
            <div className={classes.text} dir="auto">
              {fill(text.body, current.facts).text}
            </div>
            {stops.get(current.id) && text.body !== '' && (
              <p className={classes.stop}>
                Stopped: <bdi>{current.name}</bdi> {stops.get(current.id)}.
              </p>
            )}
            {recipients.length > 1 && (
              <Button variant="subtle" size="compact-xs" onClick={() => leaveOut(current)}>
                Leave {current.name} out
              </Button>
            )}
          </>
        )}
      </section>
    </div>
  );
}
