'use client';

import { ActionIcon, CopyButton, Group, Menu } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { IconX } from '@tabler/icons-react';
import Link from 'next/link';
import { useState } from 'react';
import type { SavedView } from '@/data/people/saved-views';
import { FormDialog } from '../../_frame/form-dialog';
import { offerUndo } from '../../_frame/offer-undo';
import { useOpening, type Target } from '../../_frame/opens-later';
import { useAction } from '../../_frame/use-action';
import { removeView, saveView, restoreView } from './actions';

export interface ViewProps {
  views: SavedView[];
  /** What the list is asked for now. */
  query: string;
  target: Target;
}

/** Lists kept under a name; their link shows a colleague the same, as far as they may see it. */
export function ViewChoices({ views, query, target: button }: ViewProps) {
  const { opened, setOpened, target } = useOpening(button);
  const [naming, setNaming] = useState(false);
  const { run } = useAction();
  const href = (text: string) => (text ? `/learners?${text}` : '/learners');
  const drop = (view: SavedView) =>
    run(() => removeView(view.id), {
      failed: 'It was not removed',
      then: () => offerUndo(`Removed “${view.name}”`, async () => void (await restoreView(view.id))),
    });
  return (
    <>
      <Menu position="bottom-end" shadow="md" width={280} opened={opened} onChange={setOpened}>
        <Menu.Target>{target}</Menu.Target>
        <Menu.Dropdown>
          {views.length === 0 && <Menu.Label>No view is saved yet</Menu.Label>}
          {views.map((view) => (
            <Group key={view.id} gap={4} wrap="nowrap" justify="space-between">
              <Menu.Item component={Link} href={href(view.query)}>
                {view.name}
              </Menu.Item>
              <ActionIcon
                variant="subtle"
                size="sm"
                aria-label={`Remove the view ${view.name}`}
                onClick={() => drop(view)}
              >
                <IconX size={14} />
              </ActionIcon>
            </Group>
          ))}
          <Menu.Divider />
          <Menu.Item onClick={() => setNaming(true)}>Save this list as …</Menu.Item>
          <CopyLink href={href(query)} />
        </Menu.Dropdown>
      </Menu>
      {naming && (
        <FormDialog
          title="Save this list"
          fields={[{ name: 'name', label: 'Name', description: 'A view of the same name is replaced.', most: 60 }]}
          values={{ query }}
          verb="Save"
          keep={saveView}
          onClose={() => setNaming(false)}
          onDone={(name) => notifications.show({ title: `Saved as “${name}”`, message: '' })}
        />
      )}
    </>
  );
}

function CopyLink({ href }: { href: string }) {
  return (
    <CopyButton value={typeof window === 'undefined' ? href : new URL(href, window.location.href).href}>
      {({ copied, copy }) => (
        <Menu.Item closeMenuOnClick={false} onClick={copy}>
          {copied ? 'Link copied' : 'Copy its link for a colleague'}
        </Menu.Item>
      )}
    </CopyButton>
  );
}
