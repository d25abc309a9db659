'use client';

import { TextInput } from '@mantine/core';
import { IconSearch } from '@tabler/icons-react';
import { useState, type ComponentType, type ComponentProps } from 'react';
import type { FindBox } from './find-box';
import { findField } from './find-field';
import classes from './frame.module.css';
import { useLetters } from './letters';

type Box = ComponentType<ComponentProps<typeof FindBox>>;

const load = (): Promise<Box> => import('./find-box').then((module) => module.FindBox);

/** Puts the cursor into the field, whichever of the two stands there. */
const focusField = () => document.querySelector<HTMLInputElement>('[data-find]')?.focus();

/** Search from every screen: learners, courses and items, by any part, as one types. What it finds with comes at the first focus. */
export function Find({ asOf, part }: { asOf: string | null; part: string | null }) {
  const [text, setText] = useState('');
  // Not by way of a lazy component: between the two fields no letter may be lost.
  const [Loaded, setLoaded] = useState<Box | null>(null);
  const [isOpen, setOpen] = useState(false);
  useLetters([['/', focusField]]);
  const plain = (
    <TextInput
      {...findField(isOpen)}
      value={text}
      onChange={(event) => setText(event.currentTarget.value)}
      onPointerEnter={() => void load().catch(() => undefined)}
      onFocus={() =>
        void load().then(
          (box) => setLoaded(() => box),
          () => undefined,
        )
      }
    />
  );
  return (
    <>
      <button
        type="button"
        className={classes.findButton}
        aria-label="Search"
        onClick={() => {
          setOpen(true);
          setTimeout(focusField);
        }}
      >
        <IconSearch size={20} stroke={1.6} aria-hidden="true" />
      </button>
      {Loaded ? <Loaded asOf={asOf} part={part} typed={text} isOpen={isOpen} onLeave={() => setOpen(false)} /> : plain}
    </>
  );
}
