'use client';

import { useElementSize } from '@mantine/hooks';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { bandWord, type BandEdges } from '@/core/drift/bands';
import { dotAt, layOut, scoreOfX, xOfScore, type Dot, type ShorelinePerson } from '@/core/drift/shoreline';
import { paintDots } from './paint-dots';
import classes from './shoreline.module.css';

const HEIGHT = 74;
const ASHORE = 90;

interface Name {
  name: string;
  learnerId: string;
}

interface Props {
  people: ShorelinePerson[];
  edges: BandEdges;
  /** The stretch of drift the list is narrowed to. */
  chosen: readonly [number, number] | null;
  onChoose: (drift: readonly [number, number]) => void;
  /** Fetches the names, once somebody points at a dot. */
  names: () => Promise<Record<number, Name>>;
  onOpen: (learnerId: string) => void;
}

/**
 * A whole caseload by drift, each learner a dot, with where it was a week ago. Drag across
 * it to narrow the list; with the keyboard, arrows go from dot to dot and Enter opens one.
 */
export function Shoreline({ people, edges, chosen, onChoose, names, onOpen }: Props) {
  const { ref, width: whole } = useElementSize();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [known, setKnown] = useState<Record<number, Name> | null>(null);
  const [here, setHere] = useState<number | null>(null);
  const [drag, setDrag] = useState<[number, number] | null>(null);
  const radius = people.length > 1500 ? 2 : 3;
  const width = Math.max(120, whole - ASHORE);
  const size = useMemo(() => ({ width, height: HEIGHT, ashore: ASHORE, radius }), [width, radius]);
  const dots = useMemo(() => layOut(people, size), [people, size]);
  const byDrift = useMemo(() => [...dots].sort((a, b) => (b.score ?? -1) - (a.score ?? -1)), [dots]);
  const dot = dots.find((dot) => dot.id === here) ?? null;

  useEffect(() => {
    if (whole > 0 && canvas.current) paintDots(canvas.current, dots, size, dot);
  }, [dots, size, dot, whole]);
  useEffect(() => {
    // The colours are the scheme's; paint anew when it changes.
    const seen = new MutationObserver(() => canvas.current && paintDots(canvas.current, dots, size, null));
    seen.observe(document.documentElement, { attributes: true, attributeFilter: ['data-mantine-color-scheme'] });
    return () => seen.disconnect();
  }, [dots, size]);

  const point = (next: Dot | null) => {
    setHere(next?.id ?? null);
    if (next && !known) void names().then(setKnown);
  };
  const placeOf = (event: PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  };
  const down = (event: PointerEvent<HTMLDivElement>) => {
    const { x } = placeOf(event);
    if (x > width) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    setDrag([x, x]);
  };
  const move = (event: PointerEvent<HTMLDivElement>) => {
    const { x, y } = placeOf(event);
    if (drag) setDrag([drag[0], x]);
    else point(dotAt(dots, x, y, radius + 4));
  };
  const up = () => {
    if (drag && Math.abs(drag[1] - drag[0]) > 6) {
      const [from, to] = [...drag].sort((a, b) => a - b).map((x) => scoreOfX(x, size));
      onChoose([Math.floor(from), Math.ceil(to)]);
    } else if (drag && dot && known) onOpen(known[dot.id].learnerId);
    setDrag(null);
  };
  const key = (event: KeyboardEvent) => {
    const index = byDrift.findIndex((one) => one.id === here);
    const to = { ArrowLeft: index + 1, ArrowRight: Math.max(0, index - 1), Home: byDrift.length - 1, End: 0 }[
      event.key
    ];
    if (to !== undefined) {
      event.preventDefault();
      point(byDrift[Math.min(byDrift.length - 1, to)] ?? null);
    } else if (event.key === 'Enter' && dot && known) onOpen(known[dot.id].learnerId);
  };

  const says = dot
    ? `${known?.[dot.id]?.name ?? '…'}, ${dot.score === null ? 'no reading' : `drift ${Math.round(dot.score)}`}, ${bandWord(dot.band)}`
    : '';
  const span = drag
    ? [...drag].sort((a, b) => a - b).map((x) => Math.min(width, Math.max(0, x)))
    : chosen?.map((score) => xOfScore(score, size));
  return (
    <div className={classes.frame} ref={ref}>
      <div
        className={classes.picture}
        style={{ height: HEIGHT }}
        role="application"
        aria-label={`Shoreline of ${people.length} learners by drift, from on course at the left to adrift at the coast. Arrows go from dot to dot, Enter opens one.`}
        tabIndex={0}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerLeave={() => !drag && setHere(null)}
        onKeyDown={key}
        onBlur={() => setHere(null)}
      >
        <div className={classes.water} style={{ width }} />
        {[edges.slipping, edges.adrift].map((edge) => (
          <div key={edge} className={classes.edge} style={{ left: xOfScore(edge, size) }} />
        ))}
        {span && <div className={classes.span} style={{ left: span[0], width: span[1] - span[0] }} />}
        <canvas
          ref={canvas}
          className={classes.dots}
          style={{ width: width + ASHORE, height: HEIGHT }}
          aria-hidden="true"
        />
        {dot && (
          <div
            className={classes.tip}
            style={{ left: Math.min(dot.x, width - 60), top: dot.y > HEIGHT / 2 ? 2 : HEIGHT - 26 }}
          >
            <bdi>{says}</bdi>
          </div>
        )}
      </div>
      <div className={classes.heard} aria-live="polite">
        {says}
      </div>
    </div>
  );
}
