'use client';

import { NativeSelect } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useTransition } from 'react';
import { linkTo } from './list-link';

interface Props {
  label: string;
  /** The parameter of the link that it sets. */
  name: string;
  path: string;
  params: Record<string, string | null | undefined>;
  choices: { value: string; label: string }[];
  /** What is said without a choice; one is always chosen where this is left out. */
  none?: string;
}

/** One of some, which stands in the link. */
export function ParamSelect({ label, name, path, params, choices, none }: Props) {
  const router = useRouter();
  const [pending, startTransition] = useTransition();
  return (
    <NativeSelect
      size="xs"
      aria-label={label}
      aria-busy={pending}
      value={params[name] ?? ''}
      onChange={(event) => {
        const changed = linkTo(path, { ...params, [name]: event.currentTarget.value });
        startTransition(() => router.push(changed, { scroll: false }));
      }}
      data={none === undefined ? choices : [{ value: '', label: none }, ...choices]}
    />
  );
}
