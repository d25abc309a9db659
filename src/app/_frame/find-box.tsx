'use client';

import { Combobox, TextInput, useCombobox } from '@mantine/core';
import { useDebouncedCallback } from '@mantine/hooks';
import { useRouter } from 'next/navigation';
import { useEffect, useLayoutEffect, useRef, useState } from 'react';
import type { Found } from '@/server/people/find';
import { findField } from './find-field';
import classes from './frame.module.css';
import { linkTo } from '../_list/list-link';

const NOTHING: Found = { learners: [], courses: [], items: [], total: 0 };

interface Props {
  asOf: string | null;
  part: string | null;
  /** What was typed before this was loaded. */
  typed: string;
  /** On a telephone it stands behind a button. */
  isOpen: boolean;
  onLeave: () => void;
}

/** The field with what it finds below it. It takes the focus as it comes. */
export function FindBox({ asOf, part, typed, isOpen, onLeave }: Props) {
  const [text, setText] = useState(typed);
  const [found, setFound] = useState<Found>(NOTHING);
  const [trouble, setTrouble] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const asked = useRef(0);
  const router = useRouter();
  const combobox = useCombobox({ onDropdownClose: () => combobox.resetSelectedOption() });
  const look = useDebouncedCallback(async (q: string) => {
    const turn = (asked.current += 1);
    if (!q) return setFound(NOTHING);
    try {
      const answer = await fetch(linkTo('/find', { q, as_of: asOf }));
      if (!answer.ok) throw new Error(String(answer.status));
      const next = await answer.json();
      // An answer that comes late belongs to what was typed before.
      if (turn !== asked.current) return;
      setFound(next);
      setTrouble(false);
    } catch {
      if (turn === asked.current) setTrouble(true);
    }
    combobox.openDropdown();
  }, 150);
  useLayoutEffect(() => {
    input.current?.focus();
    input.current?.setSelectionRange(typed.length, typed.length);
    if (typed) void look(typed.trim());
    // Once: later it is typed into this field.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  const { dropdownOpened, selectFirstOption } = combobox;
  useEffect(() => {
    // Only now are they there to be chosen from: Enter takes the first.
    if (dropdownOpened) selectFirstOption();
  }, [found, dropdownOpened, selectFirstOption]);
  const go = (href: string) => {
    combobox.closeDropdown();
    input.current?.blur();
    setText('');
    setFound(NOTHING);
    router.push(href);
  };
  const more = found.total - found.learners.length;
  const list = (params: Record<string, string>) => linkTo('/learners', { ...params, in: part, as_of: asOf });
  const nothing = found.learners.length + found.courses.length + found.items.length === 0;
  return (
    <Combobox store={combobox} onOptionSubmit={go} position="bottom-end" width={340} shadow="md">
      <Combobox.Target>
        <TextInput
          ref={input}
          {...findField(isOpen)}
          value={text}
          onChange={(event) => {
            setText(event.currentTarget.value);
            void look(event.currentTarget.value.trim());
          }}
          onFocus={() => text && combobox.openDropdown()}
          onBlur={() => {
            combobox.closeDropdown();
            onLeave();
          }}
          onKeyDown={(event) => event.key === 'Escape' && input.current?.blur()}
        />
      </Combobox.Target>
      <Combobox.Dropdown hidden={text.trim() === ''}>
        <Combobox.Options
          mah={420}
          style={{ overflowY: 'auto' }}
          aria-label="Found"
          tabIndex={0}
          // A press on its edge must not take the focus from what is typed.
          onMouseDown={(event) => event.preventDefault()}
        >
          {trouble && <Combobox.Empty>The search did not answer. Type again to try once more.</Combobox.Empty>}
          {!trouble && nothing && <Combobox.Empty>Nothing you see matches.</Combobox.Empty>}
          {found.learners.length > 0 && (
            <Combobox.Group label="Learners">
              {found.learners.map((learner) => (
                <Combobox.Option
                  key={learner.learnerId}
                  value={linkTo(`/learners/${encodeURIComponent(learner.learnerId)}`, { as_of: asOf })}
                >
                  <bdi>{learner.name}</bdi>
                  <div className={classes.foundSays}>{learner.says}</div>
                </Combobox.Option>
              ))}
              {more > 0 && (
                <Combobox.Option value={list({ q: text.trim() })}>All {found.total} in the list</Combobox.Option>
              )}
            </Combobox.Group>
          )}
          {found.courses.length > 0 && (
            <Combobox.Group label="Courses">
              {found.courses.map((course) => (
                <Combobox.Option
                  key={course.code}
                  value={linkTo('/watch', { in: `course:${course.code}`, as_of: asOf })}
                >
                  {course.title}
                  <div className={classes.foundSays}>{course.code}</div>
                </Combobox.Option>
              ))}
            </Combobox.Group>
          )}
          {found.items.length > 0 && (
            <Combobox.Group label="Items">
              {found.items.flatMap((item) => [
                <Combobox.Option
                  key={item.id}
                  value={linkTo('/learners', {
                    course: item.course,
                    not_opened: `${item.course}/${item.item_id}`,
                    as_of: asOf,
                  })}
                >
                  <bdi>{item.item}</bdi>
                  <div className={classes.foundSays}>
                    {item.course} · {item.kind} · who has not opened it
                  </div>
                </Combobox.Option>,
                <Combobox.Option
                  key={`log ${item.id}`}
                  value={linkTo('/access-log', { course: item.course, item: item.item_id, as_of: asOf })}
                >
                  <div className={classes.foundSays}>
                    its access log <span className="visually-hidden">of {item.item}</span>
                  </div>
                </Combobox.Option>,
              ])}
            </Combobox.Group>
          )}
        </Combobox.Options>
      </Combobox.Dropdown>
    </Combobox>
  );
}
