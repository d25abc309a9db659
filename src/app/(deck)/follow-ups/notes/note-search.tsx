'use client';

import { TextInput } from '@mantine/core';
import { useDebouncedCallback } from '@mantine/hooks';
import { useRouter } from 'next/navigation';
import { useState, useTransition } from 'react';
import { linkTo } from '../../../_deck/list-link';

/** Search in notes as one types; it lives in the link. */
export function NoteSearch({ q, part, label }: { q: string; part: string | null; label: string | null }) {
  const [text, setText] = useState(q);
  const [, startTransition] = useTransition();
  const router = useRouter();
  const search = useDebouncedCallback(
    (next: string) =>
      startTransition(() =>
        router.replace(linkTo('/follow-ups/notes', { in: part, q: next.trim(), label }), { scroll: false }),
      ),
    200,
  );
  return (
    <TextInput
      size="xs"
      w={260}
      aria-label="Find in notes"
      placeholder="Any part of a note or a name"
      maxLength={200}
      value={text}
      onChange={(event) => {
        setText(event.currentTarget.value);
        search(event.currentTarget.value);
      }}
    />
  );
}
