'use client';

import { WEEKDAYS } from '@/core/reports/schedule';
import { FormDialog } from '../../../_frame/form-dialog';
import { scheduleReport } from '../actions';

const AS = [
  { value: 'xlsx table', label: 'XLSX' },
  { value: 'csv table', label: 'CSV' },
  { value: 'pdf table', label: 'PDF' },
  { value: 'pdf pages', label: 'PDF, a page for each learner' },
  { value: 'link table', label: 'a link: each sees their own people' },
];
const MONTH_DAYS = Array.from({ length: 31 }, (_, index) => String(index + 1));

interface SendForm {
  by: string;
  weekdays: string[];
  monthdays: string[];
  at: string;
  as: string;
  people: string[];
}

interface Props {
  report: number;
  name: string;
  people: readonly { id: number; name: string }[];
  onClose: () => void;
}

/** Has a kept report sent by itself. */
export function SendDialog({ report, name, people, onClose }: Props) {
  return (
    <FormDialog<SendForm, number>
      size="lg"
      title={`Send “${name}” by itself`}
      says="It is made anew each time, of whom you may see at that moment. When you may see nobody of it any more, it stops and says so."
      fields={[
        {
          name: 'by',
          label: 'On',
          type: 'radio',
          choices: [
            { value: 'week', label: 'days of the week' },
            { value: 'month', label: 'days of the month' },
          ],
        },
        { name: 'weekdays', label: 'Days', type: 'labels', names: WEEKDAYS, shown: ({ by }) => by !== 'month' },
        {
          name: 'monthdays',
          label: 'Days of the month',
          type: 'labels',
          names: MONTH_DAYS,
          shown: ({ by }) => by === 'month',
        },
        { name: 'at', label: 'At', description: 'A time such as 07:00', most: 10 },
        { name: 'as', label: 'As', type: 'choice', choices: AS },
        { name: 'people', label: 'To', type: 'labels', names: people.map((one) => one.name) },
      ]}
      values={{
        by: 'week',
        weekdays: ['Monday'],
        monthdays: [],
        at: '07:00',
        as: 'xlsx table',
        people: [people[0].name],
      }}
      verb="Send from now on"
      keep={({ by, weekdays, monthdays, at, as, people: chosen }) => {
        const [format, layout] = as.split(' ');
        return scheduleReport(report, {
          by,
          on: by === 'week' ? weekdays.map((day) => WEEKDAYS.indexOf(day as never)) : monthdays.map(Number),
          at,
          format,
          layout,
          to: people.filter((one) => chosen.includes(one.name)).map(({ id }) => id),
        });
      }}
      onClose={onClose}
    />
  );
}
