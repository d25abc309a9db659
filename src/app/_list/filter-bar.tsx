'use client';

import { Button, CloseButton, TextInput } from '@mantine/core';
import { useDebouncedCallback } from '@mantine/hooks';
import Link from 'next/link';
import { useState, type ReactNode } from 'react';
import type { Params, Sentence, ShownControl } from '@/server/request/list';
import { opensLater } from '../_frame/opens-later';
import { linkTo } from './list-link';
import { useGo } from './use-go';
import classes from './list.module.css';

export type Changes = Params;

const FilterMenu = opensLater(() => import('./filter-menu').then((module) => module.FilterMenu));

export interface FilterBarProps {
  path: string;
  params: Params;
  sentences: readonly Sentence[];
  controls: readonly ShownControl[];
  /** What can be typed to narrow the list as one types; without it there is no such field. */
  search?: { label: string; placeholder: string };
  /** More ways to add a filter, above the others or below. */
  above?: (add: (changes: Changes) => void) => ReactNode;
  below?: (add: (changes: Changes) => void) => ReactNode;
}

/** What stays when all filters are cleared. */
const NO_FILTERS = ['in', 'as_of', 'sort', 'limit', 'fold'];

/** What narrows a list, as sentences, and the ways to add to it; all of it lives in the link. */
export function FilterBar({ path, params, sentences, controls, search, above, below }: FilterBarProps) {
  const [q, setQ] = useState(params.q ?? '');
  const { pending, go } = useGo(path, params);
  const narrow = useDebouncedCallback((text: string) => go({ q: text.trim() || undefined }, 'replace'), 200);
  const all = Object.fromEntries(NO_FILTERS.map((name) => [name, params[name]]));
  return (
    <div className={classes.filters} aria-busy={pending}>
      {search && (
        <TextInput
          w={250}
          size="xs"
          aria-label={search.label}
          placeholder={search.placeholder}
          value={q}
          maxLength={200}
          onChange={(event) => {
            setQ(event.currentTarget.value);
            narrow(event.currentTarget.value);
          }}
        />
      )}
      {sentences.map(({ says, clears }) => (
        <span key={says} className={classes.sentence}>
          <bdi>{says}</bdi>
          <CloseButton
            size="xs"
            aria-label={`Clear: ${says}`}
            onClick={() => go(Object.fromEntries(clears.map((name) => [name, undefined])))}
          />
        </span>
      ))}
      {sentences.map(
        ({ turned }) =>
          turned && (
            <Link key={turned.says} href={linkTo(path, turned.params)}>
              {turned.says}
            </Link>
          ),
      )}
      {controls.length > 0 && (
        <FilterMenu
          {...{ params, controls, above, below }}
          add={go}
          target={<Button variant="default">Add a filter</Button>}
        />
      )}
      {(sentences.length > 1 || (sentences.length > 0 && params.q)) && (
        <Link href={linkTo(path, all)} onClick={() => setQ('')}>
          clear all
        </Link>
      )}
    </div>
  );
}
