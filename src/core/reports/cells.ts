/** What a cell of a report holds, by its kind: how it is said on a screen and on paper, and what a file gets. */
import { sayCount, sayDay, sayInstant, sayLength } from '../time/words';
import { MINUTE, dateOfDay, dayOf } from '../time/zone';
import { sayPercent, sayShare } from '../percent';

/**
 * The kinds: `share` is 0–1, `percent` 0–100, `instant` epoch ms, `day` a day number of the programme's zone, `table` some
 * rows under heads of their own, `pace` what was planned and done by week.
 */
export type CellKind =
  | 'text'
  | 'count'
  | 'number'
  | 'share'
  | 'percent'
  | 'minutes'
  | 'days'
  | 'instant'
  | 'day'
  | 'flag'
  | 'texts'
  | 'table'
  | 'pace';

/** The unit of each kind, as programs and whoever chooses a column read it; empty for none. */
export const UNITS: Record<CellKind, string> = {
  text: '',
  count: 'count',
  number: '',
  share: 'share, 0 to 1',
  percent: 'per cent',
  minutes: 'minutes',
  days: 'days',
  instant: 'time',
  day: 'date',
  flag: 'yes or no',
  texts: 'list',
  table: 'rows',
  pace: 'items by week',
};

/** Kinds that are figures: they stand at the right, and can have an average. */
export function isFigure(kind: CellKind): boolean {
  return ['count', 'number', 'share', 'percent', 'minutes', 'days'].includes(kind);
}

/** A head of a table within a cell, or of a report. */
export interface Head {
  /** As files and programs call it. */
  name: string;
  title: string;
  kind: CellKind;
}

/** Rows within a cell: one learner's overdue work, their sessions. */
export interface CellTable {
  heads: readonly Head[];
  rows: readonly (readonly unknown[])[];
}

/** A week of somebody's pace: required items planned and done by its last day. */
export interface PaceWeek {
  /** Its last day. */
  day: number;
  planned: number;
  /** Null for a week to come. */
  done: number | null;
}

/** When and where what a cell holds is said. */
export interface CellTime {
  now: number;
  zone: string;
}

/** What stands for no value at all. */
export const NO_VALUE = '–';

/**
 * A value in words, as a screen and paper show it.
 *
 * @example sayCell('share', 0.64, at) // '64 %'
 * @example sayCell('days', 0, at) // '0 days'
 */
export function sayCell(kind: CellKind, value: unknown, at: CellTime): string {
  if (value === null || value === undefined || value === '') return NO_VALUE;
  const number = value as number;
  switch (kind) {
    case 'share':
      return sayShare(number);
    case 'percent':
      return sayPercent(number, 1);
    case 'minutes':
      return sayLength(number * MINUTE);
    case 'days':
      return sayCount(number, 'day');
    case 'count':
      return number.toLocaleString('en-GB');
    case 'number':
      return String(Math.round(number * 100) / 100);
    case 'instant':
      return sayInstant(number, at.zone, at.now);
    case 'day':
      return sayDay(number, dayOf(at.now, at.zone));
    case 'flag':
      return value === true ? 'yes' : 'no';
    case 'texts':
      return (value as string[]).length === 0 ? NO_VALUE : (value as string[]).join(', ');
    case 'table':
      return sayTable(value as CellTable, at);
    case 'pace': {
      const weeks = (value as PaceWeek[]).filter(({ done }) => done !== null);
      const last = weeks.at(-1);
      return last ? `${last.done} done, ${last.planned} planned` : NO_VALUE;
    }
    case 'text':
      return String(value);
  }
}

function sayTable({ heads, rows }: CellTable, at: CellTime): string {
  if (rows.length === 0) return NO_VALUE;
  return rows
    .map((row) =>
      heads
        .map(({ kind }, index) => sayCell(kind, row[index], at))
        .filter((text) => text !== NO_VALUE)
        .join(' · '),
    )
    .join('; ');
}

const round = (value: number) => Math.round(value * 1e5) / 1e5;

/**
 * A value as programs read it: times in ISO 8601, rows as objects.
 *
 * @example jsonCell('day', 20780, at) // '2026-11-23'
 */
export function jsonCell(kind: CellKind, value: unknown, at: CellTime): unknown {
  if (value === null || value === undefined) return null;
  switch (kind) {
    case 'instant':
      return new Date(value as number).toISOString().replace('.000Z', 'Z');
    case 'day':
      return dateOfDay(value as number);
    case 'table': {
      const { heads, rows } = value as CellTable;
      return rows.map((row) =>
        Object.fromEntries(heads.map(({ name, kind: own }, index) => [name, jsonCell(own, row[index], at)])),
      );
    }
    case 'pace':
      return (value as PaceWeek[]).map(({ day, planned, done }) => ({ week_to: dateOfDay(day), planned, done }));
    default:
      return typeof value === 'number' ? round(value) : value;
  }
}

/** A value as a line of text holds it: numbers, yes and no as they are, lists and rows in words. */
export function plainCellOf(kind: CellKind, value: unknown, at: CellTime): string | number | boolean | null {
  if (value === null || value === undefined) return null;
  if (kind === 'texts') return (value as string[]).join(', ');
  if (kind === 'table' || kind === 'pace') {
    const says = sayCell(kind, value, at);
    return says === NO_VALUE ? '' : says;
  }
  return jsonCell(kind, value, at) as string | number | boolean;
}

/** A head with its unit, where the value alone does not say it: "Time online (minutes)". */
export function titleWithUnit({ title, kind }: Pick<Head, 'title' | 'kind'>): string {
  return kind === 'minutes' || kind === 'days' ? `${title} (${UNITS[kind]})` : title;
}
