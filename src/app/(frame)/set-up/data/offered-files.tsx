'use client';

import { Alert, Autocomplete, Button, NativeSelect, Switch, TextInput } from '@mantine/core';
import { useState } from 'react';
import { sayCount, sayInstant, sayList } from '@/core/time/words';
import type { OfferedFile } from '@/server/imports/look-at-offered';
import { useAction } from '../../../_frame/use-action';
import { chooseForFile, leaveOut, takeOffered } from '../actions';
import { OfferedColumns, UnknownItems } from './offered-columns';
import { sayBytes } from './upload';
import classes from './data.module.css';
import '@mantine/core/styles/Combobox.layer.css';
import '@mantine/core/styles/Switch.layer.css';

interface KindChoice {
  name: string;
  says: string;
}

const MISSING: Record<OfferedFile['missing'][number]['field'], string> = {
  course: 'The course',
  dates: 'Its dates',
  session: 'The session',
  columns: 'Its columns',
};

/** "sure", "likely" or "perhaps". */
function saySure(sure: number): string {
  return sure >= 0.9 ? 'sure' : sure >= 0.6 ? 'likely' : 'perhaps';
}

interface Props {
  files: OfferedFile[];
  kinds: KindChoice[];
  courses: string[];
  /** Courses and groups that a calendar may be of. */
  parts: { value: string; label: string }[];
  zone: string;
}

/** Files that were dropped: what each seems to be, what would come of it, and one button for all of them. */
export function OfferedFiles({ files, ...about }: Props) {
  const { pending, run } = useAction();
  const stuck = files.filter((file) => file.problem !== null || file.missing.length > 0);
  return (
    <section aria-label="Files to look at">
      {files.map((file) => (
        <Offered key={file.id} file={file} {...about} />
      ))}
      <Button
        disabled={pending || stuck.length > 0}
        loading={pending}
        onClick={() => run(() => takeOffered(), { failed: 'They were not taken' })}
      >
        Bring in {sayCount(files.length, 'file')}
      </Button>
      {files.length > 1 && <p className={classes.soft}>Whoever and whatever several files name is made once.</p>}
      {stuck.length > 0 && (
        <p className={classes.soft}>
          First say what is missing of {sayList(stuck.map(({ name }) => name))}, or leave{' '}
          {stuck.length === 1 ? 'it' : 'them'} out.
        </p>
      )}
    </section>
  );
}

function Offered({ file, kinds, courses, parts, zone }: Omit<Props, 'files'> & { file: OfferedFile }) {
  const { pending, run } = useAction();
  const choose = (values: Record<string, string>) =>
    run(() => chooseForFile(file.id, values), { failed: 'It was not changed' });
  const { choices, counts, made } = file;
  const isForeign = file.columns.length > 0 && file.ownColumns === null;
  const sure = file.kinds.find(({ kind }) => kind === file.kind)?.sure ?? 1;
  return (
    <article className={classes.chosen} aria-busy={pending}>
      <header className={classes.head}>
        <h2>
          <bdi>{file.name}</bdi>
        </h2>
        <span className={classes.soft}>{sayBytes(file.size)}</span>
        <Button variant="subtle" size="compact-sm" onClick={() => run(() => leaveOut(file.id), { failed: 'It stays' })}>
          Leave it out
        </Button>
      </header>
      {file.problem && (
        <Alert color="red" role="alert" mb="xs">
          {file.problem}
        </Alert>
      )}
      <div className={classes.fields}>
        <NativeSelect
          label={
            file.kind === null
              ? 'What is it?'
              : `It seems to be (${choices.kind === null ? saySure(sure) : 'as you say'})`
          }
          key={`kind ${choices.kind}`}
          defaultValue={choices.kind ?? ''}
          onChange={(event) => choose({ kind: event.currentTarget.value })}
          data={[
            { value: '', label: file.kind === null ? 'not known' : `${file.kind}, as it was recognised` },
            ...kinds.map(({ name, says }) => ({ value: name, label: `${name}: ${says}` })),
          ]}
        />
        {isForeign && !file.columns.some(({ role }) => role === 'course') && (
          <CourseField
            key={file.course ?? ''}
            course={file.course}
            courses={courses}
            onChosen={(course) => choose({ course })}
          />
        )}
        {file.isCalendar && (
          <NativeSelect
            label="The calendar is of"
            key={`part ${file.part}`}
            defaultValue={file.part ?? ''}
            onChange={(event) => choose({ part: event.currentTarget.value })}
            data={[{ value: '', label: 'as its events say' }, ...parts]}
          />
        )}
        <Said
          key={`source ${file.source}`}
          label="Source"
          value={file.source}
          onSaid={(source) => choose({ source })}
        />
        {file.kind === 'presence' && isForeign && (
          <Said
            label="Session’s id, where its rows and its beginning do not say"
            value={choices.session ?? ''}
            onSaid={(session) => choose({ session })}
          />
        )}
        {file.hasAges && (
          <Said
            label={`When it was made: ages count back from it (${zone})`}
            value={localOf(choices.madeAt ?? file.cameAt, zone)}
            type="datetime-local"
            onSaid={(made_at) => choose({ made_at })}
          />
        )}
        {file.columns.length > 0 && (choices.dates !== null || file.dates === null || file.dates !== 'iso') && (
          <NativeSelect
            label="Dates"
            key={`dates ${choices.dates ?? file.dates}`}
            defaultValue={choices.dates ?? file.dates ?? ''}
            onChange={(event) => choose({ dates: event.currentTarget.value })}
            data={[
              ...(file.dates === null ? [{ value: '', label: 'could be either way round', disabled: true }] : []),
              { value: 'day_first', label: 'day first' },
              { value: 'month_first', label: 'month first' },
              { value: 'iso', label: 'year first' },
            ]}
          />
        )}
        {isForeign && (
          <Switch
            label="Make what is missing"
            description="people, courses and items that nothing has told of yet"
            key={`create ${choices.create}`}
            defaultChecked={choices.create}
            onChange={(event) => choose({ create: event.currentTarget.checked ? 'yes' : 'no' })}
          />
        )}
      </div>
      {file.missing.map(({ field, says }) => (
        <p key={field} className={classes.fault}>
          {MISSING[field]} {says}.
        </p>
      ))}
      {counts && (
        <p>
          <strong>{sayCount(counts.rows, 'row')}</strong>
          {file.isHeadOnly && ' at its beginning'}: {counts.taken.toLocaleString('en-GB')} will be taken
          {counts.waiting > 0 &&
            `, ${counts.waiting.toLocaleString('en-GB')} ${counts.waiting === 1 ? 'waits' : 'wait'} for a name`}
          {counts.unreadable > 0 && `, ${counts.unreadable.toLocaleString('en-GB')} cannot be read`}.
          {made && sayMade(made)}
          {file.example && (
            <>
              {' '}
              <q>{file.example.cell}</q> is read as {sayInstant(file.example.at, zone)}.
            </>
          )}
        </p>
      )}
      {file.unknownPeople.length > 0 && (
        <p className={classes.soft}>
          Nobody is known as: <bdi>{file.unknownPeople.join('; ')}</bdi>. Their rows wait until you say who they are.
        </p>
      )}
      {file.unknownItems.length > 0 && <UnknownItems file={file} />}
      {file.faults.map((fault) => (
        <p key={fault} className={classes.fault}>
          <bdi>{fault}</bdi>
        </p>
      ))}
      {[...file.facts.map((fact) => `Above the table: ${fact}`), ...file.notes].map((note) => (
        <p key={note} className={classes.soft}>
          <bdi>{note}</bdi>
        </p>
      ))}
      {file.columns.length > 0 && <OfferedColumns file={file} />}
    </article>
  );
}

function sayMade({ learners, enrolments, courses, items }: NonNullable<OfferedFile['made']>): string {
  const parts = [
    courses > 0 && sayCount(courses, 'course'),
    learners > 0 && sayCount(learners, 'learner'),
    enrolments > learners && sayCount(enrolments, 'enrolment'),
    items > 0 && sayCount(items, 'item'),
  ].filter((part) => part !== false);
  return parts.length === 0 ? '' : ` New: ${sayList(parts)}.`;
}

/** A wall-clock time for a field of the browser's own. */
function localOf(at: number, zone: string): string {
  return new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short', timeStyle: 'short' })
    .format(at)
    .replace(' ', 'T');
}

function Said({
  label,
  value,
  type,
  onSaid,
}: {
  label: string;
  value: string;
  type?: string;
  onSaid: (text: string) => void;
}) {
  const [text, setText] = useState(value);
  return (
    <TextInput
      label={label}
      type={type}
      value={text}
      onChange={(event) => setText(event.currentTarget.value)}
      onBlur={() => text !== value && onSaid(text)}
    />
  );
}

function CourseField({
  course,
  courses,
  onChosen,
}: {
  course: string | null;
  courses: string[];
  onChosen: (course: string) => void;
}) {
  const [text, setText] = useState(course ?? '');
  return (
    <Autocomplete
      label="Course of all its rows"
      data={courses}
      value={text}
      onChange={setText}
      onOptionSubmit={onChosen}
      onBlur={() => text !== (course ?? '') && onChosen(text)}
    />
  );
}
