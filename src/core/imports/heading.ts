/** Which of a file's columns are ours. */
import { plural } from '../time/words';
import { plainCell } from './cells';
import { foldHeading } from './heading-name';
import { FILE_KINDS, columnsOfKind, type FileKindName } from './kinds';
import { mappingFaults, isoFromNumerals, type DateOrder, type Mapping } from './mapping';
import { cellChecks, type CellCheck } from './row-check';

interface ReadColumn {
  name: string;
  /** Place in the row. */
  index: number;
  isTime: boolean;
  check: CellCheck;
}

export interface Heading {
  columns: ReadColumn[];
  /** Headings that are none of ours: ignored, and named in the result. */
  unknown: string[];
  /** How many cells a row must have. */
  width: number;
}

/** A file that is no such file at all; it is refused whole. */
export class NotSuchAFile extends Error {
  override name = 'NotSuchAFile';
}

/**
 * Finds the columns of a kind in a heading row, in any order, by our own names or by a mapping.
 * @throws NotSuchAFile when a needed column is missing or stands twice
 */
export function readHeading(kind: FileKindName, cells: readonly string[], mapping: Mapping | null = null): Heading {
  const columns = columnsOfKind(kind);
  const ours = [...columns.keys()];
  const faults = mapping ? mappingFaults(kind, cells, mapping) : [];
  if (faults.length > 0) throw new NotSuchAFile(`The mapping does not fit: ${faults.join('; ')}.`);
  const folded = cells.map((cell) => {
    const name = foldHeading(cell);
    const mapped = mapping?.columns[name];
    // A column said to be unused is none of ours, whatever its heading.
    return mapped === undefined ? name : (mapped ?? '');
  });
  const known = folded.filter((name) => ours.includes(name));
  if (known.length === 0) {
    throw new NotSuchAFile(`None of its columns is one of those of ${kind} (${ours.join(', ')}).`);
  }
  const twice = known.find((name, index) => known.indexOf(name) !== index);
  if (twice) throw new NotSuchAFile(`The column ${twice} stands twice in the heading.`);
  const checks = cellChecks(FILE_KINDS[kind].row);
  const missing = ours.filter((name) => !known.includes(name) && checks.get(name)?.('') !== null);
  if (missing.length > 0) {
    throw new NotSuchAFile(
      `A file of the kind ${kind} needs the ${plural(missing.length, 'column')} ${missing.join(', ')}.`,
    );
  }
  return {
    columns: folded.flatMap((name, index) =>
      ours.includes(name)
        ? [{ name, index, isTime: columns.get(name)!.isTime, check: checks.get(name) ?? (() => null) }]
        : [],
    ),
    unknown: cells.filter((cell, index) => !ours.includes(folded[index]) && cell.trim() !== ''),
    width: cells.length,
  };
}

/** A row's cells with its dates in ISO 8601, from the order that its file is written in. */
export function datesToIso(heading: Heading, order: DateOrder, cells: readonly string[]): string[] {
  const read = [...cells];
  if (order === 'iso') return read;
  for (const { index, isTime } of heading.columns) {
    if (isTime && index < read.length) read[index] = isoFromNumerals(read[index], order);
  }
  return read;
}

/** Why a row is not taken. */
export interface Fault {
  field: string;
  reason: string;
}

export type CheckedRow = { values: Record<string, string>; fault: null } | { values: null; fault: Fault };

/** Does the row have as many cells as the heading? Empty ones too many are no harm. */
export function widthFault(heading: Heading, cells: readonly string[]): Fault | null {
  const { width, columns } = heading;
  if (cells.length < width) {
    const field = columns.find((column) => column.index >= cells.length)?.name ?? '';
    return { field, reason: `the row has ${cells.length} cells, the heading ${width}` };
  }
  if (cells.length > width && cells.slice(width).some((cell) => cell.trim() !== '')) {
    return { field: '', reason: `the row has ${cells.length} cells, the heading ${width}` };
  }
  return null;
}

/** Checks a row's cells one by one; the first fault is the row's. Values come trimmed. */
export function checkRow(heading: Heading, cells: readonly string[]): CheckedRow {
  const fault = widthFault(heading, cells);
  if (fault) return { values: null, fault };
  const values: Record<string, string> = {};
  for (const { name, index, check } of heading.columns) {
    const value = plainCell(cells[index].trim());
    const reason = check(value);
    if (reason !== null) return { values: null, fault: { field: name, reason } };
    values[name] = value;
  }
  return { values, fault: null };
}
