'use client';

import { Autocomplete } from '@mantine/core';
import { useDebouncedCallback } from '@mantine/hooks';
import { useRef, useState } from 'react';
import type { Found } from '@/server/people/find';
import type { Params } from '@/server/request/list';
import { linkTo } from '../../_list/list-link';

/** Finds a learner or an item by any part of its name. */
export function SomeoneOrItem({ onPick }: { onPick: (changes: Params) => void }) {
  const [text, setText] = useState('');
  const [found, setFound] = useState<{ value: string; changes: Params }[]>([]);
  const asked = useRef(0);
  const look = useDebouncedCallback(async (q: string) => {
    const turn = (asked.current += 1);
    const answer = q ? await fetch(linkTo('/find', { q })).catch(() => null) : null;
    if (turn !== asked.current) return;
    if (!answer?.ok) return setFound([]);
    const { learners, items }: Found = await answer.json();
    setFound([
      ...learners.map((learner) => ({
        value: `${learner.name} · ${learner.learnerId}`,
        changes: { learner: learner.learnerId },
      })),
      ...items.map((item) => ({
        value: `${item.item} · ${item.course} ${item.item_id}`,
        changes: { course: item.course, item: item.item_id, group: undefined },
      })),
    ]);
  }, 150);
  return (
    <Autocomplete
      size="xs"
      label="Learner or item"
      placeholder="Any part of a name or id"
      value={text}
      data={found.map((one) => one.value)}
      filter={({ options }) => options}
      maxLength={200}
      comboboxProps={{ withinPortal: false }}
      onChange={(value) => {
        setText(value);
        const picked = found.find((one) => one.value === value);
        if (picked) onPick(picked.changes);
        else look(value.trim());
      }}
    />
  );
}
