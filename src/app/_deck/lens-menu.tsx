'use client';

import { Button, Menu, ScrollArea } from '@mantine/core';
import { IconChevronDown } from '@tabler/icons-react';
import Link from 'next/link';
import { usePathname, useSearchParams } from 'next/navigation';

interface Choice {
  key: string;
  label: string;
  learners: number;
}

const KINDS = { course: 'Courses', group: 'Groups', organisation: 'Organisations' } as const;

/** Whose learners are shown: the whole caseload, a course, a group or an organisation. */
export function LensMenu({ own, current, choices }: { own: string; current: string | null; choices: Choice[] }) {
  const path = usePathname();
  const search = useSearchParams();
  // A course that is no longer chosen says nothing about pages and filters of the list before.
  const to = (key: string | null) => {
    const params = new URLSearchParams();
    if (key) params.set('in', key);
    const band = search.get('band');
    if (band && path === '/watch') params.set('band', band);
    const asOf = search.get('as_of');
    if (asOf) params.set('as_of', asOf);
    const query = params.toString();
    const target = path.startsWith('/learners/') || path.startsWith('/write') ? '/watch' : path;
    return query ? `${target}?${query}` : target;
  };
  const chosen = choices.find((choice) => choice.key === current);
  return (
    <Menu position="bottom-start" shadow="md" width={320}>
      <Menu.Target>
        <Button variant="default" rightSection={<IconChevronDown size={14} />}>
          Caseload: {chosen?.label ?? own}
        </Button>
      </Menu.Target>
      <Menu.Dropdown>
        <ScrollArea.Autosize mah={420} type="auto">
          <Menu.Item component={Link} href={to(null)}>
            {own[0].toUpperCase() + own.slice(1)}
          </Menu.Item>
          {Object.entries(KINDS).map(([kind, title]) => {
            const own = choices.filter((choice) => choice.key.startsWith(`${kind}:`));
            if (own.length === 0) return null;
            return (
              <div key={kind}>
                <Menu.Label>{title}</Menu.Label>
                {own.map((choice) => (
                  <Menu.Item
                    key={choice.key}
                    component={Link}
                    href={to(choice.key)}
                    rightSection={choice.learners}
                    aria-current={choice.key === current ? 'true' : undefined}
                  >
                    {choice.label}
                  </Menu.Item>
                ))}
              </div>
            );
          })}
        </ScrollArea.Autosize>
      </Menu.Dropdown>
    </Menu>
  );
}
