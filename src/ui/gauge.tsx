import type { CSSProperties } from 'react';
import { bandWord } from '@/core/drift/bands';
import type { Band } from '@/core/drift/bands';
import classes from './gauge.module.css';

export function bandColor(band: Band | null): string {
  return `var(--band-${band ?? 'none'})`;
}

export function bandTextColor(band: Band | null): string {
  return band === 1 || band === null ? `var(--band-${band ?? 'none'}-text)` : bandColor(band);
}

interface Props {
  score: number | null;
  band: Band | null;
  size?: 'list' | 'panel' | 'page';
}

/** Drift as a filled height; no reading is a dashed outline. The word stands for the picture, and in a list beside it. */
export function Gauge({ score, band, size }: Props) {
  const label = score === null ? 'no reading' : `${bandWord(band)}, drift ${Math.round(score)}`;
  const full = score === null ? undefined : ({ '--full': Math.round(score) / 100 } as CSSProperties);
  return (
    <span
      className={classes.gauge}
      style={full}
      data-band={band ?? undefined}
      data-size={size}
      {...(size === 'list' ? { 'aria-hidden': true } : { role: 'img', 'aria-label': label })}
    />
  );
}
