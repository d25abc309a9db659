'use client';

import { useRouter } from 'next/navigation';
import { useRef, useState, useTransition, type KeyboardEvent, type PointerEvent } from 'react';
import { sayCount, sayDay } from '@/core/time/words';
import { dateOfDay, weekday } from '@/core/time/zone';
import { linkTo } from '../../_list/list-link';
import type { Params } from '@/server/request/list';
import classes from './access-log.module.css';

interface Props {
  /** Days with events, in order. */
  days: { day: number; events: number }[];
  about: boolean;
  /** The first and last day of the period chosen. */
  chosen: [number, number] | null;
  params: Params;
  today: number;
  /** Days on which the log is incomplete. */
  gaps: readonly (readonly [number, number])[];
}

/** Days shown at most: half a year. */
const MOST_DAYS = 182;
const HEIGHT = 46;

type Range = [number, number];

/** Events by day; a press on a day, or drawing over several, narrows the log to them. */
export function Histogram({ days, about, chosen, params, today, gaps }: Props) {
  const router = useRouter();
  const [pending, startTransition] = useTransition();
  const [drawn, setDrawn] = useState<Range | null>(null);
  const [cursor, setCursor] = useState<number | null>(null);
  const begun = useRef<number | null>(null);
  const box = useRef<SVGSVGElement>(null);
  const last = Math.max(days.at(-1)!.day, chosen?.[1] ?? -Infinity);
  const first = Math.max(Math.min(days[0].day, chosen?.[0] ?? Infinity), last - MOST_DAYS + 1);
  const count = last - first + 1;
  const events = new Map(days.map((day) => [day.day, day.events]));
  const most = Math.max(1, ...days.filter(({ day }) => day >= first).map((day) => day.events));
  const width = 100 / count;
  const choose = (range: Range | null) => {
    const period = range
      ? { from: dateOfDay(Math.min(...range)), to: dateOfDay(Math.max(...range) + 1) }
      : { from: null, to: null };
    startTransition(() =>
      router.push(linkTo('/access-log', { ...params, period: null, ...period }), { scroll: false }),
    );
  };
  const dayAt = (event: PointerEvent) => {
    const { left, width: whole } = box.current!.getBoundingClientRect();
    const share = (event.clientX - left) / whole;
    return Math.min(last, Math.max(first, first + Math.floor(share * count)));
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const at = cursor ?? chosen?.[1] ?? last;
    const step = { ArrowLeft: -1, ArrowRight: 1, PageUp: -7, PageDown: 7 }[event.key];
    if (step !== undefined) {
      const next = Math.min(last, Math.max(first, at + step));
      setCursor(next);
      setDrawn(event.shiftKey ? [drawn?.[0] ?? at, next] : [next, next]);
    } else if (event.key === 'Enter') choose(drawn ?? [at, at]);
    else if (event.key === 'Escape') setDrawn(null);
    else return;
    event.preventDefault();
  };
  const shown = drawn ?? chosen;
  const [low, high] = shown ? [Math.min(...shown), Math.max(...shown)] : [Infinity, -Infinity];
  const isGap = (day: number) => gaps.some(([from, to]) => day >= from && day <= to);
  const said = (day: number) =>
    `${sayDay(day, today)}: ${about ? 'about ' : ''}${sayCount(events.get(day) ?? 0, 'event')}${isGap(day) ? ', log incomplete' : ''}`;
  const pointed = cursor ?? null;
  return (
    <figure className={classes.histogram} aria-busy={pending}>
      <svg
        ref={box}
        width="100%"
        height={HEIGHT}
        viewBox={`0 0 100 ${HEIGHT}`}
        preserveAspectRatio="none"
        role="slider"
        tabIndex={0}
        aria-label="Events by day. Arrow keys choose a day, with Shift several; Enter narrows the log to them."
        aria-valuemin={first}
        aria-valuemax={last}
        aria-valuenow={cursor ?? chosen?.[1] ?? last}
        aria-valuetext={said(cursor ?? chosen?.[1] ?? last)}
        onKeyDown={onKeyDown}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          begun.current = dayAt(event);
          setDrawn([begun.current, begun.current]);
        }}
        onPointerMove={(event) => {
          const day = dayAt(event);
          setCursor(day);
          if (begun.current !== null) setDrawn([begun.current, day]);
        }}
        onPointerLeave={() => begun.current === null && setCursor(null)}
        onPointerUp={(event) => {
          if (begun.current === null) return;
          const range: Range = [begun.current, dayAt(event)];
          begun.current = null;
          choose(range);
        }}
        onPointerCancel={() => {
          begun.current = null;
          setDrawn(null);
        }}
      >
        {Array.from({ length: count }, (_, index) => {
          const day = first + index;
          const value = events.get(day) ?? 0;
          const tall = value === 0 ? 0 : Math.max(1.5, ((HEIGHT - 4) * value) / most);
          return (
            <g key={day}>
              {weekday(day) > 4 && <rect x={index * width} y={0} width={width} height={HEIGHT} fill="var(--weekend)" />}
              {day >= low && day <= high && (
                <rect x={index * width} y={0} width={width} height={HEIGHT} fill="var(--sand)" />
              )}
              {isGap(day) && (
                <path
                  d={[0.2, 0.4, 0.6, 0.8, 1]
                    .map((y) => `M${index * width} ${HEIGHT * y}l${width} ${-HEIGHT / 5}`)
                    .join('')}
                  stroke="var(--band-none)"
                  vectorEffect="non-scaling-stroke"
                />
              )}
              <rect
                x={index * width + width * 0.12}
                y={HEIGHT - tall}
                width={width * 0.76}
                height={tall}
                fill="var(--water)"
                opacity={shown && (day < low || day > high) ? 0.45 : 1}
              />
            </g>
          );
        })}
      </svg>
      <figcaption className={classes.caption}>
        <span>{sayDay(first, today)}</span>
        <span aria-live="polite">
          {pointed === null ? 'Events a day. Press a day, or draw over several.' : said(pointed)}
        </span>
        <span>{sayDay(last, today)}</span>
      </figcaption>
    </figure>
  );
}
