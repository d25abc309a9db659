/**
 * Checks of a row's cells, by the rules of its columns.
 *
 * A tree of errors for every row is what a million rows cannot afford: each column remembers the values that it has passed.
 */
import { columnsOf } from './column';
import type { Rule } from './validators';

/** Returns why a cell is wrong, or null. */
export type CellCheck = (value: string) => string | null;

/** Values a column remembers; ids, actions and addresses repeat, times do not. */
const REMEMBERED = 20_000;

/** A check for every column of a row class, by column name. */
export function cellChecks(row: new () => object): Map<string, CellCheck> {
  return new Map(
    [...columnsOf(row)].map(([name, { isNeeded, rules }]) => [
      name,
      remembering((value) => (!isNeeded && value === '' ? null : firstFault(rules, value))),
    ]),
  );
}

function firstFault(rules: readonly Rule[], value: string): string | null {
  return rules.find((rule) => !rule.test(value))?.says ?? null;
}

function remembering(check: CellCheck): CellCheck {
  const passed = new Set<string>();
  return (value) => {
    if (passed.has(value)) return null;
    const fault = check(value);
    if (fault === null && passed.size < REMEMBERED) passed.add(value);
    return fault;
  };
}
