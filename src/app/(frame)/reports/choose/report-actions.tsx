'use client';

import { Button } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { FormDialog } from '../../../_frame/form-dialog';
import { useAction } from '../../../_frame/use-action';
import { linkTo } from '../../../_list/list-link';
import { keepReport, makeLong, removeReport, saveReport, shareReport, writeReport } from '../actions';
import classes from '../reports.module.css';
import { SendDialog } from './send-dialog';

interface Props {
  /** The kept report that is open, where it is one. */
  report: { id: number; name: string; revision: number; isOwn: boolean; shared: readonly number[] } | null;
  /** A name to begin with. */
  name: string;
  params: Record<string, string | undefined>;
  colleagues: readonly { id: number; name: string }[];
  /** To whom it may be sent: oneself and colleagues. */
  people: readonly { id: number; name: string }[];
  /** Can what is chosen be read? */
  isSound: boolean;
  /** Formats that are made beside the pages: as `pdf pages`. */
  long: readonly string[];
}

interface ReportFile {
  format: string;
  layout: string;
  label: string;
  /** Shown in a tab of its own, to be printed from there. */
  isPrint?: boolean;
}

const FILES: readonly ReportFile[] = [
  { format: 'pdf', layout: 'table', label: 'Print', isPrint: true },
  { format: 'csv', layout: 'table', label: 'CSV' },
  { format: 'xlsx', layout: 'table', label: 'XLSX' },
  { format: 'pdf', layout: 'table', label: 'PDF' },
  { format: 'pdf', layout: 'pages', label: 'PDF, a page each' },
  { format: 'xlsx', layout: 'pages', label: 'XLSX, a sheet each' },
  { format: 'json', layout: 'table', label: 'JSON' },
];

interface FileButtonProps {
  label: string;
  /** Nothing can be had of what is chosen. */
  disabled: boolean;
  pending: boolean;
  /** Where the file is at once; null where it is made beside the pages. */
  href: string | null;
  isPrint?: boolean;
  onLong: () => void;
}

function FileButton({ label, disabled, pending, href, isPrint, onLong }: FileButtonProps) {
  const look = { size: 'compact-sm', variant: 'default' } as const;
  if (disabled || href === null)
    return (
      <Button {...look} disabled={disabled} loading={pending} onClick={onLong}>
        {label}
      </Button>
    );
  return (
    <Button {...look} component="a" href={href} target={isPrint ? '_blank' : undefined}>
      {label}
    </Button>
  );
}

/** What can be done with a report: save, share, take away, and have it as a file. */
export function ReportActions({ report, name, params, colleagues, people, isSound, long }: Props) {
  const [asking, setAsking] = useState<'name' | 'share' | 'send' | null>(null);
  const { pending, run } = useAction();
  const router = useRouter();
  const link = linkTo('', params).replace('?', '');
  const isForLearners = params.for === 'outside';
  const openDraft = (id: number) => router.push(linkTo(`/write/${id}`, { from: linkTo('/reports/choose', params) }));
  const open = (id: number) => router.push(linkTo('/reports/choose', { ...params, report: String(id) }));
  return (
    <div className={classes.actions}>
      {report && (
        <Button
          size="compact-sm"
          loading={pending}
          disabled={!isSound}
          onClick={() =>
            run(() => saveReport({ name: report.name, link, revision: String(report.revision) }), {
              done: `Saved “${report.name}”`,
              failed: 'It was not saved',
            })
          }
        >
          Save
        </Button>
      )}
      <Button
        size="compact-sm"
        variant={report ? 'default' : 'filled'}
        disabled={!isSound}
        onClick={() => setAsking('name')}
      >
        {report ? 'Save as …' : 'Save'}
      </Button>
      {report?.isOwn && colleagues.length > 0 && (
        <Button size="compact-sm" variant="default" onClick={() => setAsking('share')}>
          Share …
        </Button>
      )}
      {report && people.length > 0 && (
        <Button size="compact-sm" variant="default" onClick={() => setAsking('send')}>
          Send …
        </Button>
      )}
      {report?.isOwn && (
        <Button
          size="compact-sm"
          variant="default"
          loading={pending}
          onClick={() => {
            if (window.confirm(`Remove “${report.name}” for you and everybody it is shared with?`))
              run(() => removeReport(report.id), { done: 'Removed', then: () => router.push('/reports') });
          }}
        >
          Remove
        </Button>
      )}
      {isForLearners && (
        <Button
          size="compact-sm"
          variant="default"
          loading={pending}
          disabled={!isSound}
          onClick={() => run(() => writeReport(link), { failed: 'Nobody was written to', then: openDraft })}
        >
          Write to each …
        </Button>
      )}
      <span className={classes.outputs}>
        {FILES.map(({ format, layout, label, isPrint }) => (
          <FileButton
            key={label}
            label={label}
            disabled={!isSound}
            pending={pending}
            href={
              long.includes(`${format} ${layout}`)
                ? null
                : linkTo('/reports/file', { ...params, format, layout, print: isPrint ? 'yes' : undefined })
            }
            isPrint={isPrint}
            onLong={() =>
              run(() => makeLong(link, format, layout), {
                done: 'It is being made: see Reports',
                then: () => router.push('/reports'),
              })
            }
          />
        ))}
      </span>
      {asking === 'name' && (
        <FormDialog
          title="Save the report"
          fields={[{ name: 'name', label: 'Name', most: 120 }]}
          values={{ name, link }}
          verb="Save"
          keep={keepReport}
          onClose={() => setAsking(null)}
          onDone={(id) => {
            notifications.show({ title: 'Saved', message: '' });
            open(id);
          }}
        />
      )}
      {asking === 'send' && report && (
        <SendDialog report={report.id} name={report.name} people={people} onClose={() => setAsking(null)} />
      )}
      {asking === 'share' && report && (
        <FormDialog
          title={`Share “${report.name}”`}
          says="They can run and change it, and see through it only whom they may see."
          fields={[{ name: 'names', label: 'Colleagues', type: 'labels', names: colleagues.map((one) => one.name) }]}
          values={{ names: colleagues.filter(({ id }) => report.shared.includes(id)).map((one) => one.name) }}
          verb="Share"
          keep={({ names }: { names: string[] }) =>
            shareReport(
              report.id,
              colleagues.filter((one) => names.includes(one.name)).map(({ id }) => id),
            )
          }
          onClose={() => setAsking(null)}
        />
      )}
    </div>
  );
}
