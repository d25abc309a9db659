'use client';

import { Button, Checkbox, Popover, Stack } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { linkTo } from '../../_list/list-link';
import { useOpening, type Target } from '../../_frame/opens-later';
import { usePending } from '../../_frame/use-pending';
import { saveColumns } from './actions';

export interface ColumnProps {
  columns: { name: string; title: string }[];
  chosen: string[];
  /** The list's address without columns of its own: those that are kept are then shown. */
  link: Record<string, string | null | undefined>;
  target: Target;
}

/** Chooses the columns, and keeps the choice. */
export function ColumnChoices({ columns, chosen, link, target: button }: ColumnProps) {
  const { opened, setOpened, target } = useOpening(button);
  const [wanted, setWanted] = useState(chosen);
  const [pending, start] = usePending();
  const router = useRouter();
  const keep = () =>
    start(async () => {
      await saveColumns(wanted);
      setOpened(false);
      router.replace(linkTo('/learners', link), { scroll: false });
    });
  return (
    <Popover opened={opened} onChange={setOpened} position="bottom-end" trapFocus shadow="md">
      <Popover.Target>{target}</Popover.Target>
      <Popover.Dropdown>
        <Checkbox.Group value={wanted} onChange={setWanted} label="Columns shown">
          <Stack gap={6} mt={6}>
            {columns.map(({ name, title }) => (
              <Checkbox key={name} size="xs" value={name} label={title} />
            ))}
          </Stack>
        </Checkbox.Group>
        <Button mt="sm" loading={pending} disabled={wanted.length === 0} onClick={keep}>
          Save
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}
