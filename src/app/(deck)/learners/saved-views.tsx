'use client';

import { ActionIcon, Button, CopyButton, Group, Menu, Modal, TextInput } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { IconX } from '@tabler/icons-react';
import Link from 'next/link';
import { useState, useTransition } from 'react';
import type { SavedView } from '@/data/people/saved-views';
import { offerUndo } from '../../_people/use-people';
import { dropTheView, keepTheView, putBackTheView } from './actions';

/** Lists kept under a name; their link shows a colleague the same, as far as they may see it. */
export function SavedViews({ views, query }: { views: SavedView[]; query: string }) {
  const [naming, setNaming] = useState(false);
  const [name, setName] = useState('');
  const [trouble, setTrouble] = useState<string | null>(null);
  const [pending, startTransition] = useTransition();
  const href = (text: string) => (text ? `/learners?${text}` : '/learners');
  const keep = () =>
    startTransition(async () => {
      const result = await keepTheView(name, query);
      setTrouble(result.ok ? null : result.says);
      if (result.ok) {
        setNaming(false);
        notifications.show({ title: `Kept as “${name.trim()}”`, message: '' });
        setName('');
      }
    });
  const drop = (view: SavedView) =>
    startTransition(async () => {
      const result = await dropTheView(view.id);
      if (result.ok) offerUndo(`Removed “${view.name}”`, async () => void (await putBackTheView(view.id)));
      else notifications.show({ title: 'It was not removed', message: result.says, color: 'red' });
    });
  return (
    <>
      <Menu position="bottom-end" shadow="md" width={280}>
        <Menu.Target>
          <Button variant="default" size="compact-xs">
            Views
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          {views.length === 0 && <Menu.Label>No view is kept yet</Menu.Label>}
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
          <Menu.Item onClick={() => setNaming(true)}>Keep this list as …</Menu.Item>
          <CopyLink href={href(query)} />
        </Menu.Dropdown>
      </Menu>
      <Modal
        opened={naming}
        onClose={() => setNaming(false)}
        title="Keep this list"
        closeButtonProps={{ 'aria-label': 'Close' }}
      >
        <form
          onSubmit={(event) => {
            event.preventDefault();
            keep();
          }}
        >
          <TextInput
            label="Name"
            description="A view of the same name is replaced."
            data-autofocus
            maxLength={60}
            value={name}
            error={trouble}
            onChange={(event) => setName(event.currentTarget.value)}
          />
          <Group mt="sm">
            <Button type="submit" loading={pending}>
              Keep
            </Button>
            <Button variant="default" onClick={() => setNaming(false)}>
              Cancel
            </Button>
          </Group>
        </form>
      </Modal>
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
