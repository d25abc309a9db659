'use client';

import { sayFaults } from '@/core/field-labels';
import { Alert, Button, Checkbox, Group, NativeSelect, SegmentedControl, Textarea } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useDebouncedCallback } from '@mantine/hooks';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { ANNOUNCED_TO } from '@/core/contact/announcement';
import { quietUntil } from '@/core/contact/quiet-hours';
import {
  CHANNEL_WORDS,
  channelOf,
  whatStops,
  type ChannelChoice,
  type Receiver,
  type Recipient,
} from '@/core/contact/recipient';
import { fieldFault, fill } from '@/core/contact/template';
import { sayCount, sayDaysAgo } from '@/core/time/words';
import { DayField } from '../../../_frame/day-field';
import { offerUndo } from '../../../_frame/offer-undo';
import { Preview } from './preview';
import { ReceiversField } from './receivers-field';
import { TextFields } from './text-fields';
import { useRecipients, type Possible } from './use-recipients';
import { chooseWhoReceives, saveText, removeFromDraft, send, undo, type WrittenForm } from '../actions';
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
  receivers: Receiver[];
  possible: Possible;
  back: string;
  /** Does a page of a report go with it? */
  hasPage: boolean;
  isPraise: boolean;
  now: number;
  zone: string;
}

/** One text, each person's own message: written, previewed, checked, sent. */
export function WriteForm({ draftId, back, hasPage, now, zone, ...given }: Props) {
  const [text, setText] = useState(given.text);
  const { recipients, count, possible, state, fetchAll, ...others } = useRecipients({ draftId, ...given });
  const [receivers, setReceivers] = useState(given.receivers);
  const [said, setSaid] = useState<ReadonlyMap<number, string | null>>(new Map());
  const [shown, setShown] = useState(0);
  const [confirmed, setConfirmed] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [pending, start] = usePending();
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
  const choose = (next: Receiver[]) =>
    start(async () => {
      const result = await chooseWhoReceives(draftId, next);
      if (!result.ok) return void notifications.show({ message: result.says, color: 'red' });
      setReceivers(next);
      setShown(0);
      await fetchAll();
    });
  const leaveOut = (recipient: Recipient) =>
    start(async () => {
      const result = await removeFromDraft(draftId, recipient.key);
      if (!result.ok) return void notifications.show({ message: result.says, color: 'red' });
      // Only now: whoever is shown as left out is not written to.
      others.leaveOut(recipient.key);
      setShown(0);
    });

  const takeTemplate = (id: string) => {
    const template = given.templates.find((template) => String(template.id) === id);
    if (template) change({ ...text, template_id: id, subject: template.subject, body: template.body });
    else change({ ...text, template_id: '' });
  };

  // What goes with a file goes by mail, whatever each prefers.
  const wanted = !hasPage ? (text.channel as ChannelChoice) : 'email';
  const toLearner = receivers.includes('learner');
  const toOthers = receivers.some((receiver) => receiver !== 'learner');
  // Of the two texts, those that somebody is written.
  const used = [
    ...(toLearner ? [{ subject: text.subject, body: text.body }] : []),
    ...(toOthers ? [{ subject: text.other_subject, body: text.other_body }] : []),
  ];
  const fieldTrouble = [...used.flatMap(({ subject, body }) => [subject, body]), text.sentence]
    .map(fieldFault)
    .find((fault) => fault !== null);
  const isWhole = used.every(({ subject, body }) => body.trim() && (wanted === 'sms' || subject.trim()));
  const sentenceOf = (recipient: Recipient) => {
    const own = said.get(recipient.id);
    return own === undefined ? recipient.sentence : own;
  };
  const whatStopsPage = (recipient: Recipient) => {
    const { missing } = fill(sentenceOf(recipient) ?? text.sentence, recipient.facts);
    return !hasPage || missing.length === 0 ? null : `has no value for ${missing.join(', ')} on the page`;
  };
  const stops = new Map(
    recipients.map((recipient) => [recipient.key, whatStops(recipient, text, wanted) ?? whatStopsPage(recipient)]),
  );
  const heldUntil = (recipient: Recipient) => quietUntil(now, recipient.timezone ?? zone);
  const ready = recipients.filter((recipient) => stops.get(recipient.key) === null);
  const stopped = recipients.filter((recipient) => stops.get(recipient.key) !== null);
  const held = ready.filter((recipient) => heldUntil(recipient) !== null);
  const byText = ready.filter((recipient) => channelOf(recipient, wanted) === 'sms');
  const contacted = ready.filter((recipient) => recipient.contacted !== null);
  const current = recipients[shown] ?? recipients[0];
  const isBegun = used.some(({ subject, body }) => subject !== '' || body !== '');

  const go = () =>
    start(async () => {
      setTrouble(null);
      const result = await send(draftId, text, confirmed ? contacted.map((one) => one.key) : []);
      if (result.outcome === 'invalid') {
        setTrouble(sayFaults(result.errors));
      } else if (result.outcome === 'contacted') {
        setTrouble(
          `Nothing was sent. Somebody wrote to ${result.names.join(', ')} in the last 5 days. Check, then confirm or leave them out.`,
        );
        router.refresh();
        void fetchAll();
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
          <h1>
            Write to{' '}
            {recipients.length === 1
              ? recipients[0].to
              : sayCount(recipients.length, toOthers ? 'person' : 'learner', toOthers ? 'people' : 'learners')}
          </h1>
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
          {!hasPage && (
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
        <ReceiversField chosen={receivers} possible={possible} pending={pending} onChange={choose} />
        {toLearner && (
          <TextFields
            to={toOthers ? 'the learner' : undefined}
            subject={text.subject}
            body={text.body}
            hasSubject={wanted !== 'sms'}
            isPraise={given.isPraise}
            rows={toOthers ? 6 : 9}
            onChange={(written) => change({ ...text, ...written })}
          />
        )}
        {toOthers && (
          <TextFields
            to={toLearner ? 'the others' : undefined}
            subject={text.other_subject}
            body={text.other_body}
            hasSubject={wanted !== 'sms'}
            isPraise={given.isPraise}
            rows={toLearner ? 6 : 9}
            onChange={({ subject, body }) => change({ ...text, other_subject: subject, other_body: body })}
          />
        )}
        {hasPage && (
          <Textarea
            label="On every page, from you"
            description="A sentence at its foot; empty for lines to write on."
            mt="md"
            autosize
            minRows={2}
            maxRows={8}
            maxLength={2000}
            value={text.sentence}
            onChange={(event) => change({ ...text, sentence: event.currentTarget.value })}
          />
        )}
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
            description={`A message to more than ${ANNOUNCED_TO} is an announcement and moves nobody on the Watch. One that is about them moves them to Contacted.`}
            checked={text.is_about === 'yes'}
            onChange={(event) => change({ ...text, is_about: event.currentTarget.checked ? 'yes' : 'no' })}
          />
        )}
        {contacted.length > 0 && (
          <Alert color="yellow" mt="sm">
            <p className={classes.warning}>
              Contacted in the last 5 days:{' '}
              {contacted.map((one) => `${one.to} (${sayDaysAgo(one.contacted!, now, zone)})`).join(', ')}.
            </p>
            <Checkbox
              label={`Write to ${contacted.length === 1 ? 'them' : `these ${contacted.length}`} all the same`}
              checked={confirmed}
              onChange={(event) => setConfirmed(event.currentTarget.checked)}
            />
          </Alert>
        )}
        {stopped.length > 0 && isBegun && (
          <Alert color="red" mt="sm">
            <p className={classes.warning}>
              {sayCount(stopped.length, 'message is stopped', 'messages are stopped')} and will not go:
            </p>
            <ul className={classes.stopped}>
              {stopped.slice(0, 20).map((recipient) => (
                <li key={recipient.key}>
                  <bdi>{recipient.to}</bdi> {stops.get(recipient.key)}
                </li>
              ))}
              {stopped.length > 20 && <li>and {stopped.length - 20} more</li>}
            </ul>
          </Alert>
        )}
        {state === 'failed' && (
          <Alert color="red" mt="sm" role="alert">
            Not everybody it goes to could be read, and nothing goes before each is checked.{' '}
            <Button variant="default" size="compact-xs" onClick={() => void fetchAll()}>
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
            fieldTrouble !== undefined ||
            !isWhole ||
            (contacted.length > 0 && !confirmed)
          }
          onClick={go}
        >
          {state === 'coming'
            ? `Checking ${sayCount(count, 'message')} …`
            : `Send ${sayCount(ready.length, 'message')}`}
        </Button>
      </div>
      <section className={classes.preview} aria-label="Preview">
        <h2>As each will read it</h2>
        {current ? (
          <Preview
            draftId={draftId}
            current={current}
            place={recipients.indexOf(current)}
            count={count}
            there={recipients.length}
            text={text}
            wanted={wanted}
            heldUntil={heldUntil(current)}
            stop={isBegun ? (stops.get(current.key) ?? null) : null}
            hasPage={hasPage}
            now={now}
            zone={zone}
            onShow={setShown}
            onLeaveOut={() => leaveOut(current)}
            sentence={sentenceOf(current)}
            onSaid={(sentence) => setSaid((known) => new Map(known).set(current.id, sentence))}
          />
        ) : (
          <p className={classes.soft}>Nobody of these learners has such a contact who may receive it.</p>
        )}
      </section>
    </div>
  );
}
