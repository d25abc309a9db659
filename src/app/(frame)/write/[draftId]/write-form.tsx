'use client';

import { sayFaults } from '@/core/field-labels';
import { Alert, Button, Checkbox, Group, NativeSelect, SegmentedControl, TextInput, Textarea } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useDebouncedCallback } from '@mantine/hooks';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import { ANNOUNCED_TO } from '@/core/contact/announcement';
import { quietUntil } from '@/core/contact/quiet-hours';
import { CHANNEL_WORDS, channelOf, whatStops, type ChannelChoice, type Recipient } from '@/core/contact/recipient';
import { MESSAGE_FIELDS, fieldFault, fill } from '@/core/contact/template';
import { sayCount, sayDaysAgo, sayInstant } from '@/core/time/words';
import { DayField } from '../../../_frame/day-field';
import { offerUndo } from '../../../_frame/offer-undo';
import { useRecipients } from './use-recipients';
import { saveText, removeFromDraft, send, undo, type WrittenForm } from '../actions';
import { usePending } from '../../../_frame/use-pending';
import classes from './write.module.css';
import '@mantine/core/styles/FloatingIndicator.layer.css';
import '@mantine/core/styles/SegmentedControl.layer.css';

interface Template {
  id: number;
  name: string;
  subject: string;
  body: string;
}

interface Props {
  draftId: number;
  text: WrittenForm;
  templates: Template[];
  sent: boolean;
  /** To whom: the first, and how many in all. */
  first: Recipient[];
  total: number;
  back: string;
  /** The report that goes with it, each their own page. */
  report: string | null;
  now: number;
  zone: string;
}

/** One text, each person's own message: written, previewed, checked, sent. */
export function WriteForm({ draftId, back, report, now, zone, ...given }: Props) {
  const [text, setText] = useState(given.text);
  const { recipients, count, state, fetchRest, ...others } = useRecipients({ draftId, ...given });
  const [shown, setShown] = useState(0);
  const [confirmed, setConfirmed] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [pending, start] = usePending();
  const bodyRef = useRef<HTMLTextAreaElement>(null);
  const router = useRouter();
  const [unkept, setUnkept] = useState<string | null>(null);
  const keep = useDebouncedCallback(async (next: typeof text) => {
    const lost = 'The connection was lost.';
    const result = await saveText(draftId, next).catch(() => ({ ok: false as const, says: lost }));
    setUnkept(result.ok ? null : result.says);
  }, 800);

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
  const leaveOut = (recipient: Recipient) =>
    start(async () => {
      const result = await removeFromDraft(draftId, recipient.id);
      if (!result.ok) return void notifications.show({ message: result.says, color: 'red' });
      // Only now: whoever is shown as left out is not written to.
      others.leaveOut(recipient.id);
      setShown(0);
    });

  const takeTemplate = (id: string) => {
    const template = given.templates.find((template) => String(template.id) === id);
    if (template) change({ ...text, template_id: id, subject: template.subject, body: template.body });
    else change({ ...text, template_id: '' });
  };

  // What goes with a file goes by mail, whatever each prefers.
  const wanted = report === null ? (text.channel as ChannelChoice) : 'email';
  const fieldTrouble = fieldFault(text.subject) ?? fieldFault(text.body);
  const stops = new Map(recipients.map((recipient) => [recipient.id, whatStops(recipient, text, wanted)]));
  const heldUntil = (recipient: Recipient) => quietUntil(now, recipient.timezone ?? zone);
  const ready = recipients.filter((recipient) => stops.get(recipient.id) === null);
  const stopped = recipients.filter((recipient) => stops.get(recipient.id) !== null);
  const held = ready.filter((recipient) => heldUntil(recipient) !== null);
  const byText = ready.filter((recipient) => channelOf(recipient, wanted) === 'sms');
  const contacted = ready.filter((recipient) => recipient.contacted !== null);
  const current = recipients[shown] ?? recipients[0];

  const go = () =>
    start(async () => {
      setTrouble(null);
      const result = await send(draftId, text, confirmed ? contacted.map((one) => one.id) : []);
      if (result.outcome === 'invalid') {
        setTrouble(sayFaults(result.errors));
      } else if (result.outcome === 'contacted') {
        setTrouble(
          `Nothing was sent. Somebody wrote to ${result.names.join(', ')} in the last 5 days. Check, then confirm or leave them out.`,
        );
        router.refresh();
        if (given.total > given.first.length) void fetchRest();
      } else if (result.outcome === 'nobody') {
        setTrouble('Nothing was sent: every message is stopped.');
      } else {
        told(result.queued, result.held);
        router.push(back);
      }
    });

  const told = (count: number, heldBack: number) => {
    const says = `${sayCount(count, 'message')} on the way${heldBack > 0 ? `, ${heldBack} held until the quiet hours end` : ''}`;
    offerUndo(says, () =>
      start(async () => {
        const undone = await undo(draftId);
        notifications.show({
          title: undone ? 'Taken back' : 'Too late to take back',
          message: undone ? 'Nothing was sent; the text is kept.' : 'At least one message has gone.',
        });
        if (undone) router.push(`/write/${draftId}?from=${encodeURIComponent(back)}`);
      }),
    );
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
        <Group align="end" gap="md" mb="sm">
          {given.templates.length > 0 && (
            <NativeSelect
              label="Template"
              value={text.template_id}
              onChange={(event) => takeTemplate(event.currentTarget.value)}
              data={[
                { value: '', label: 'none' },
                ...given.templates.map((template) => ({ value: String(template.id), label: template.name })),
              ]}
            />
          )}
          {report === null && (
            <div>
              <div className={classes.label} id="channel">
                Send as
              </div>
              <SegmentedControl
                aria-labelledby="channel"
                size="xs"
                value={text.channel}
                onChange={(channel) => change({ ...text, channel })}
                data={[
                  { value: 'preferred', label: 'what each prefers' },
                  { value: 'email', label: CHANNEL_WORDS.email },
                  { value: 'sms', label: CHANNEL_WORDS.sms },
                ]}
              />
            </div>
          )}
          <DayField
            label="Follow up on"
            value={text.follow_up_on}
            onChange={(follow_up_on) => change({ ...text, follow_up_on })}
          />
        </Group>
        {wanted !== 'sms' && (
          <TextInput
            label="Subject"
            value={text.subject}
            maxLength={200}
            onChange={(event) => change({ ...text, subject: event.currentTarget.value })}
          />
        )}
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
        {fieldTrouble && (
          <Alert color="red" mt="sm" role="alert">
            The text {fieldTrouble}.
          </Alert>
        )}
        {(byText.length > 0 || held.length > 0) && (
          <p className={classes.soft}>
            {byText.length > 0 && `${sayCount(byText.length, 'text message')}, without the subject. `}
            {held.length > 0 &&
              `${sayCount(held.length, 'message')} held until 08:00 where the learner is: these are their quiet hours.`}
          </p>
        )}
        {ready.length > ANNOUNCED_TO && (
          <Checkbox
            mt="sm"
            label="This is about how they are doing"
            description={`A message to more than ${ANNOUNCED_TO} is an announcement and moves nobody on the Watch. One that is about them moves them to Waiting.`}
            checked={text.is_about === 'yes'}
            onChange={(event) => change({ ...text, is_about: event.currentTarget.checked ? 'yes' : 'no' })}
          />
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
        {state === 'failed' && (
          <Alert color="red" mt="sm" role="alert">
            The other {count - recipients.length} learners did not come, and nothing goes before each is checked.{' '}
            <Button variant="default" size="compact-xs" onClick={() => void fetchRest()}>
              Try again
            </Button>
          </Alert>
        )}
        {unkept && (
          <Alert color="red" role="alert" variant="light">
            What you wrote last is not kept yet: {unkept} It stays on this page; write on, and it is tried again.
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
            state !== 'there' ||
            ready.length === 0 ||
            fieldTrouble !== null ||
            (wanted !== 'sms' && !text.subject.trim()) ||
            !text.body.trim() ||
            (contacted.length > 0 && !confirmed)
          }
          onClick={go}
        >
          {state === 'coming'
            ? `Checking ${sayCount(count, 'learner')} …`
            : `Send ${sayCount(ready.length, 'message')}`}
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
                {shown + 1} of {count}
              </span>
              <Button variant="default" disabled={shown >= recipients.length - 1} onClick={() => setShown(shown + 1)}>
                Next
              </Button>
            </Group>
            <dl className={classes.mail}>
              <dt>To</dt>
              <dd>
                <bdi>{current.name}</bdi>{' '}
                {channelOf(current, wanted) === 'sms'
                  ? (current.phone ?? '(no phone number)')
                  : current.email
                    ? `<${current.email}>`
                    : '(no e-mail address)'}
              </dd>
              <dt>As</dt>
              <dd>
                {CHANNEL_WORDS[channelOf(current, wanted)]}
                {heldUntil(current) !== null && `, held until ${sayInstant(heldUntil(current)!, zone, now)}`}
              </dd>
              {channelOf(current, wanted) === 'email' && (
                <>
                  <dt>Subject</dt>
                  <dd>
                    <bdi>{fill(text.subject, current.facts).text}</bdi>
                  </dd>
                </>
              )}
            </dl>
            <div className={classes.text} dir="auto">
              {fill(text.body, current.facts).text}
            </div>
            {report !== null && (
              <p>
                With{' '}
                <a href={`/write/${draftId}/report?learner=${current.id}`} target="_blank">
                  <bdi>{report}</bdi>, the PDF that {current.name} gets
                </a>
              </p>
            )}
            {stops.get(current.id) && text.body !== '' && (
              <p className={classes.stop}>
                Stopped: <bdi>{current.name}</bdi> {stops.get(current.id)}.
              </p>
            )}
            {count > 1 && (
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
