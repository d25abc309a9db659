'use client';

import { Button, NativeSelect, Popover } from '@mantine/core';
import { useState } from 'react';
import { ACTION_KINDS } from '@/core/access/kinds';
import { ITEM_KINDS } from '@/core/courses/item-kinds';
import { DayRange } from '../../../_frame/day-range';
import { PERIOD_CHOICES } from '../../../_frame/periods';
import { useGo } from '../../../_list/use-go';
import type { CourseChoice } from '../course-params';
import classes from '../courses.module.css';

type Params = Record<string, string | undefined>;

interface Props {
  params: Params;
  courses: CourseChoice[];
  groups: { value: string; label: string }[];
  items: { item_id: string; title: string; unit: string | null }[];
  actions: string[];
}

const PERIODS = [{ value: '', label: 'at any time' }, ...PERIOD_CHOICES];

/** The question, a choice at a time; all of it stands in the link. */
export function WhoDidForm({ params, courses, groups, items, actions }: Props) {
  const { pending, go } = useGo('/courses/who-did', params);
  const [days, setDays] = useState(false);
  const units = [...new Set(items.map((item) => item.unit).filter((unit) => unit !== null))];
  const plain = (values: readonly string[], any: string) => [
    { value: '', label: any },
    ...values.map((value) => ({ value, label: value.replaceAll('_', ' ') })),
  ];
  const hasDays = params.from !== undefined || params.to !== undefined;
  const select = (
    name: string,
    label: string,
    data: React.ComponentProps<typeof NativeSelect>['data'],
    alongside: Params = {},
  ) => (
    <NativeSelect
      size="xs"
      maw={230}
      label={label}
      value={params[name] ?? ''}
      onChange={(event) => go({ ...alongside, [name]: event.currentTarget.value || undefined })}
      data={data}
    />
  );
  const grouped = [
    ...units.map((unit) => ({
      group: unit,
      items: items.filter((item) => item.unit === unit).map(({ item_id, title }) => ({ value: item_id, label: title })),
    })),
    {
      group: 'In no unit',
      items: items.filter((item) => item.unit === null).map(({ item_id, title }) => ({ value: item_id, label: title })),
    },
  ].filter((one) => one.items.length > 0);
  const nothing = { item: undefined, unit: undefined, item_kind: undefined };
  return (
    <div className={classes.form} aria-busy={pending}>
      {select(
        'course',
        'Course',
        courses.map(({ code, title }) => ({ value: code, label: title })),
        { ...nothing, group: undefined, in: undefined },
      )}
      {select('item', 'Item', [{ value: '', label: 'any item' }, ...grouped], {
        unit: undefined,
        item_kind: undefined,
      })}
      {select('item_kind', 'Any …', plain(ITEM_KINDS, 'sort of item'), { item: undefined })}
      {select('unit', 'of unit', plain(units, 'any unit'), { item: undefined })}
      {select('kind', 'Kind', plain(ACTION_KINDS, 'any'), { action: undefined })}
      {select('action', 'Action', plain(actions, 'any'), { kind: undefined })}
      {select('group', 'Group', [{ value: '', label: 'all groups' }, ...groups], { in: undefined })}
      {select('period', 'When', hasDays ? [{ value: '', label: 'some days' }, ...PERIODS.slice(1)] : PERIODS, {
        from: undefined,
        to: undefined,
      })}
      <Popover opened={days} onChange={setDays} shadow="md" trapFocus width={340}>
        <Popover.Target>
          <Button variant="default" onClick={() => setDays(!days)}>
            Choose days
          </Button>
        </Popover.Target>
        <Popover.Dropdown>
          <DayRange
            from={params.from}
            to={params.to}
            onPick={(range) => {
              setDays(false);
              go({ period: undefined, from: undefined, to: undefined, ...range });
            }}
          />
        </Popover.Dropdown>
      </Popover>
    </div>
  );
}
