'use client';

import { Alert, Button, Group, Table, TextInput } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { notifications } from '@mantine/notifications';
import { useState } from 'react';
import type { SettingPreview } from '@/server/drift/setting-preview';
import { FormDialog } from '../../../_frame/form-dialog';
import type { Result } from '@/server/request/action';
import { saveSetting, previewWeights } from '../actions';
import { askForTrial } from '../trial/actions';
import { Movers } from './movers';
import { usePending } from '../../../_frame/use-pending';
import classes from './weights.module.css';

type Numbers = Record<string, string>;

interface Props {
  /** Code of the course that is set; null for the programme. */
  course: string | null;
  factors: readonly { name: string; title: string }[];
  values: Numbers;
  /** Weights that a fit proposes, filled in and not kept. */
  proposed: Numbers | null;
  /** What each number is by default. */
  usual: Numbers;
}

const EDGES = [
  ['slipping', 'Slipping from', ''],
  ['adrift', 'Adrift from', ''],
] as const;

const DAYS = [
  ['away', 'Away after', 'counted days without access'],
  ['contacted', 'Contacted for', 'days after somebody tried to reach them'],
] as const;

/** The numbers of a setting: changed, tried on today's list, and kept with words. */
export function WeightsForm({ course, factors, values, proposed, usual }: Props) {
  const [numbers, setNumbers] = useState({ ...values, ...proposed });
  const [errors, setErrors] = useState<Numbers>({});
  const [trouble, setTrouble] = useState<string | null>(null);
  const [preview, setPreview] = useState<SettingPreview | null>(null);
  const [isKeeping, setKeeping] = useState(false);
  const [pending, start] = usePending();
  const router = useRouter();
  const asked = course === null ? numbers : { ...numbers, course };
  const shown = [...EDGES, ...(course === null ? DAYS : [])];
  const isChanged = Object.keys(values).some((name) => numbers[name] !== values[name]);

  const set = (changed: Numbers) => {
    setNumbers((known) => ({ ...known, ...changed }));
    // What is shown below is of other numbers.
    setPreview(null);
  };
  /** Shows what is wrong with the numbers; says whether they could be taken. */
  const settle = (result: Result<unknown>): boolean => {
    const faults = result.ok ? [] : result.errors.filter(({ field }) => field in numbers);
    setErrors(Object.fromEntries(faults.map(({ field, message }) => [field, message])));
    setTrouble(!result.ok && faults.length === 0 ? result.says : null);
    return result.ok;
  };
  const look = (then?: () => void) =>
    start(async () => {
      const result = await previewWeights(asked);
      if (!settle(result) || !result.ok) return setPreview(null);
      setPreview(result.value);
      then?.();
    });
  /** Asks for a trial on past courses of these numbers, beside what is set. */
  const tryOnPast = () =>
    start(async () => {
      const changedNumbers = Object.entries(numbers).filter(([name, value]) => value !== usual[name]);
      const rule =
        changedNumbers.length === 0
          ? 'watch:default'
          : `watch:${changedNumbers.map((pair) => pair.join('=')).join(';')}`;
      const result = await askForTrial('trial', { courses: [], rules: [rule, 'watch'], quiet: '', people: '' });
      if (result.ok) router.push(`/set-up/trial/${result.value}`);
      else setTrouble(result.says);
    });
  const field = (name: string, label: string) => (
    <TextInput
      size="xs"
      inputMode="decimal"
      aria-label={label}
      value={numbers[name]}
      error={errors[name]}
      data-changed={numbers[name] !== values[name] || undefined}
      onChange={(event) => set({ [name]: event.currentTarget.value })}
    />
  );
  return (
    <form
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        look();
      }}
    >
      <div className={classes.numbers}>
        <Table className={classes.weights} aria-label="Weights">
          <Table.Thead>
            <Table.Tr>
              <Table.Th>Factor</Table.Th>
              <Table.Th>Early</Table.Th>
              <Table.Th>Late</Table.Th>
              <Table.Th>By default</Table.Th>
            </Table.Tr>
          </Table.Thead>
          <Table.Tbody>
            {factors.map(({ name, title }) => (
              <Table.Tr key={name}>
                <Table.Th scope="row">{title}</Table.Th>
                <Table.Td>{field(`${name}_early`, `${title}, early`)}</Table.Td>
                <Table.Td>{field(`${name}_late`, `${title}, late`)}</Table.Td>
                <Table.Td className={classes.usual}>{usual[`${name}_early`]}</Table.Td>
              </Table.Tr>
            ))}
          </Table.Tbody>
        </Table>
        <Table className={classes.weights} aria-label="Edges and days">
          <Table.Thead>
            <Table.Tr>
              <Table.Th>Edge</Table.Th>
              <Table.Th>Is</Table.Th>
              <Table.Th>By default</Table.Th>
            </Table.Tr>
          </Table.Thead>
          <Table.Tbody>
            {shown.map(([name, title, unit]) => (
              <Table.Tr key={name}>
                <Table.Th scope="row">
                  {title}
                  {unit && <div className={classes.usual}>{unit}</div>}
                </Table.Th>
                <Table.Td>{field(name, title)}</Table.Td>
                <Table.Td className={classes.usual}>{usual[name]}</Table.Td>
              </Table.Tr>
            ))}
          </Table.Tbody>
        </Table>
      </div>
      {trouble && (
        <Alert color="red" role="alert" mb="sm">
          {trouble}
        </Alert>
      )}
      <Group gap="sm">
        <Button type="submit" variant="default" loading={pending} disabled={!isChanged}>
          See who moves
        </Button>
        <Button loading={pending} disabled={!isChanged} onClick={() => look(() => setKeeping(true))}>
          Save…
        </Button>
        <Button variant="default" loading={pending} disabled={!isChanged} onClick={tryOnPast}>
          Try on past courses
        </Button>
        {isChanged && (
          <Button
            variant="subtle"
            onClick={() => {
              set(values);
              setErrors({});
            }}
          >
            As they are
          </Button>
        )}
        <Button variant="subtle" onClick={() => set(usual)}>
          Fill in the defaults
        </Button>
      </Group>
      {preview && <Movers preview={preview} />}
      {isKeeping && preview && (
        <FormDialog
          title="Save these weights"
          says={
            <>
              {preview.changes.join(', ') || 'The same numbers, of its own'}. Today’s list: {preview.before} now,{' '}
              {preview.after} then; joining it {preview.counts.joins}, leaving it {preview.counts.leaves}.
            </>
          }
          verb="Save"
          fields={[{ name: 'words', label: 'Why' }]}
          values={{ words: '' }}
          keep={({ words }: { words: string }) => saveSetting({ ...asked, words })}
          onClose={() => setKeeping(false)}
          onDone={() =>
            notifications.show({ title: 'The weights are saved', message: 'Today is being read anew by them.' })
          }
        />
      )}
    </form>
  );
}
