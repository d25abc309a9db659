'use client';

import { Menu, Progress, UnstyledButton } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { sayAbout } from '@/core/time/words';
import { linkTo } from '../../_list/list-link';
import type { Params } from '@/server/request/list';
import classes from './access-log.module.css';
import '@mantine/core/styles/Progress.layer.css';

const FORMATS = [
  ['csv', 'CSV'],
  ['xlsx', 'XLSX'],
  ['jsonl', 'JSON lines'],
] as const;

interface State {
  done: number;
  total: number;
  about: boolean;
  state: 'running' | 'done' | 'left' | 'failed';
}

/** A random id, also where the page is not served over TLS. */
function randomId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  const hex = [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('');
  return hex.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
}

const ENDS: Record<Exclude<State['state'], 'running'>, string> = {
  done: 'Exported',
  left: 'The export was given up',
  failed: 'The export failed: try again, or choose a shorter period',
};

/** Downloads what is shown, and tells how far it has got. */
export function ExportMenu({ params, total, about }: { params: Params; total: number; about: boolean }) {
  const begin = async (format: string, title: string) => {
    const id = randomId();
    const link = document.createElement('a');
    link.href = linkTo('/access-log/export', { ...params, format, export: id });
    link.download = '';
    link.click();
    const shown = notifications.show({
      title: `Exporting as ${title}`,
      message: 'Begins …',
      autoClose: false,
      loading: true,
    });
    for (;;) {
      await new Promise((resolve) => setTimeout(resolve, 400));
      const answer = await fetch(linkTo('/access-log/progress', { export: id })).catch(() => null);
      // It may not have begun yet; a lost connection ends the download too, and the browser says so.
      if (answer === null) return notifications.hide(shown);
      if (!answer.ok) continue;
      const state: State = await answer.json();
      const says = `${state.done.toLocaleString('en-GB')} of ${sayAbout(state.total, state.about)} events`;
      if (state.state === 'running') {
        notifications.update({
          id: shown,
          title: `Exporting as ${title}`,
          message: (
            <>
              {says}
              <Progress value={(100 * state.done) / Math.max(1, state.total)} size="sm" mt={4} aria-label={says} />
            </>
          ),
        });
        continue;
      }
      notifications.update({
        id: shown,
        title: ENDS[state.state],
        message: state.state === 'done' ? `${state.done.toLocaleString('en-GB')} events` : says,
        loading: false,
        autoClose: 6000,
      });
      return;
    }
  };
  return (
    <Menu shadow="md" width={150}>
      <Menu.Target>
        <UnstyledButton className={classes.asLink}>Export</UnstyledButton>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>{sayAbout(total, about)} events</Menu.Label>
        {FORMATS.map(([format, title]) => (
          <Menu.Item key={format} onClick={() => void begin(format, title)}>
            {title}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}
