'use client';

import { ActionIcon, TextInput } from '@mantine/core';
import { IconChevronDown, IconChevronUp, IconX } from '@tabler/icons-react';
import { useState } from 'react';
import { foldText } from '@/core/people/fold';
import type { ColumnShown } from '@/server/reports/columns';
import { useGo } from '../../../_list/use-go';
import classes from '../reports.module.css';

interface Props {
  /** Columns that such rows may have and that may go to whom the report is for. */
  columns: readonly ColumnShown[];
  chosen: readonly string[];
  params: Record<string, string | undefined>;
}

/** Moves one of a list to another's place. @example moved(['a', 'b', 'c'], 2, 0) // ['c', 'a', 'b'] */
function moved<T>(list: readonly T[], from: number, to: number): T[] {
  const rest = list.filter((_, index) => index !== from);
  return [...rest.slice(0, to), list[from], ...rest.slice(to)];
}

/** The columns of a report: found by typing, put in order by dragging or by the arrows. */
export function ColumnChooser({ columns, chosen, params }: Props) {
  const [sought, setSought] = useState('');
  const [dragged, setDragged] = useState<number | null>(null);
  const [over, setOver] = useState<number | null>(null);
  const { pending, go } = useGo('/reports/choose', params);
  const byName = new Map(columns.map((column) => [column.name, column]));
  const choose = (names: readonly string[]) => go({ cols: names.join(',') }, 'replace');
  const words = foldText(sought).split(' ').filter(Boolean);
  const found = columns.filter(
    ({ name, title, says }) =>
      !chosen.includes(name) && words.every((word) => foldText(`${title} ${says} ${name}`).includes(word)),
  );
  const drop = (at: number) => {
    if (dragged !== null && dragged !== at) choose(moved(chosen, dragged, at));
    setDragged(null);
    setOver(null);
  };
  return (
    <div className={classes.row} aria-busy={pending}>
      <h2>Columns</h2>
      <ol className={classes.chosen} aria-label="Chosen columns">
        {chosen.map((name, at) => {
          const title = byName.get(name)?.title ?? name;
          return (
            <li
              key={name}
              draggable
              title={byName.get(name)?.says}
              data-over={over === at && dragged !== at ? true : undefined}
              onDragStart={() => setDragged(at)}
              onDragOver={(event) => {
                event.preventDefault();
                setOver(at);
              }}
              onDragEnd={() => setOver(null)}
              onDrop={() => drop(at)}
            >
              <span>{title}</span>
              <ActionIcon
                variant="subtle"
                size="sm"
                aria-label={`${title} earlier`}
                disabled={at === 0}
                onClick={() => choose(moved(chosen, at, at - 1))}
              >
                <IconChevronUp size={14} />
              </ActionIcon>
              <ActionIcon
                variant="subtle"
                size="sm"
                aria-label={`${title} later`}
                disabled={at === chosen.length - 1}
                onClick={() => choose(moved(chosen, at, at + 1))}
              >
                <IconChevronDown size={14} />
              </ActionIcon>
              <ActionIcon
                variant="subtle"
                size="sm"
                aria-label={`Without ${title}`}
                onClick={() => choose(chosen.filter((one) => one !== name))}
              >
                <IconX size={14} />
              </ActionIcon>
            </li>
          );
        })}
      </ol>
      <TextInput
        size="xs"
        label="Add a column"
        placeholder="Type a part of its name"
        value={sought}
        maxLength={100}
        onChange={(event) => setSought(event.currentTarget.value)}
      />
      <ul className={classes.found} aria-label="Columns to add">
        {found.length === 0 && <li className={classes.soft}>No other column has that in its name.</li>}
        {found.map(({ name, title, says, unit }) => (
          <li key={name}>
            <button type="button" onClick={() => choose([...chosen, name])}>
              {title}
              <span className={classes.soft}>
                {says}
                {unit && ` (${unit})`}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
