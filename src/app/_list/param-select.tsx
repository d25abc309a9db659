'use client';

import { NativeSelect } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useEffect, useOptimistic, useRef, useTransition } from 'react';
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
  const select = useRef<HTMLSelectElement>(null);
  // What was just chosen, until its page is there.
  const [chosen, setChosen] = useOptimistic(params[name] ?? '');
  const data = none === undefined ? choices : [{ value: '', label: none }, ...choices];
  const choose = (value: string) => {
    if (value === chosen) return;
    const changed = linkTo(path, { ...params, [name]: value });
    startTransition(() => {
      setChosen(value);
      router.push(changed, { scroll: false });
    });
  };
  useEffect(() => {
    // Chosen before the page came to life, when nobody heard of it. A link to what is no choice shows another: nobody chose that.
    if (select.current && data.some(({ value }) => value === chosen)) choose(select.current.value);
    // Only once: later choices are heard.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  return (
    <NativeSelect
      ref={select}
      size="xs"
      aria-label={label}
      aria-busy={pending}
      // Else a browser may put back, on its own, what was chosen on an earlier visit.
      autoComplete="off"
      value={chosen}
      onChange={(event) => choose(event.currentTarget.value)}
      data={data}
    />
  );
}
