'use client';

import { NativeSelect } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useTransition } from 'react';
import { linkTo } from '../../_list/list-link';

interface Props {
  path: string;
  params: Record<string, string | null | undefined>;
  item: string;
  items: { value: string; label: string }[];
}

/** Which item is shown; it stands in the link. */
export function ItemSelect({ path, params, item, items }: Props) {
  const router = useRouter();
  const [pending, startTransition] = useTransition();
  return (
    <NativeSelect
      size="xs"
      aria-label="Item"
      aria-busy={pending}
      value={item}
      onChange={(event) => {
        const changed = linkTo(path, { ...params, item: event.currentTarget.value });
        startTransition(() => router.push(changed, { scroll: false }));
      }}
      data={items}
    />
  );
}
