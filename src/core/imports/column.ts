/** Declaring a column of a file beside its checks. */
import { NOT_EMPTY, type Rule } from './validators';

export interface ColumnSpec {
  /** What stands in it, for whoever makes such a file. */
  says: string;
  /** Other headings that files give it, folded, the likeliest first. */
  synonyms?: readonly string[];
  /** What its cells look like, where its checks do not tell. */
  looks?: RegExp;
}

export interface Column extends ColumnSpec {
  /** Holds dates or times, which a file may write in its own order. */
  isTime: boolean;
  /** Has to stand in every row. */
  isNeeded: boolean;
  /** What a cell must be, in the order in which it is said; one that may be empty is held to them only when it is not. */
  rules: readonly Rule[];
}

const declared = new WeakMap<object, Map<string, Column>>();

const TIMES = ['isDate', 'isInstant'];
const LOOKS_LIKE_MAIL = /^[^\s@]+@[^\s@]+\.[^\s@]+$/;

/** What cells look like that keep to some rules, where these tell. */
function looksOf(rules: readonly Rule[]): RegExp | undefined {
  const words = rules.find((rule) => rule.words)?.words;
  if (words) return new RegExp(`^(${words.join('|')})$`, 'i');
  return rules.some(({ name }) => name === 'isEmail') ? LOOKS_LIKE_MAIL : undefined;
}

const declare =
  (isNeeded: boolean, spec: ColumnSpec, rules: readonly Rule[]): PropertyDecorator =>
  (prototype, name) => {
    const columns = declared.get(prototype) ?? new Map<string, Column>();
    const isTime = rules.some((rule) => TIMES.includes(rule.name));
    declared.set(prototype, columns.set(String(name), { looks: looksOf(rules), ...spec, isTime, isNeeded, rules }));
  };

/**
 * Makes a property of a row class a column of its file that has to stand in every row. The class's properties are the columns,
 * in their order.
 *
 * @example
 * class RosterRow {
 *   @Needed({ says: 'the learner’s id', synonyms: ['student_id'] }, atMost(200)) learner_id!: string;
 *   @Optional({ says: 'e-mail address' }, MAIL) email?: string;
 * }
 */
export const Needed = (spec: ColumnSpec, ...rules: Rule[]) => declare(true, spec, [NOT_EMPTY, ...rules]);

/** The same of a column that may be left out, in the file or in a row. */
export const Optional = (spec: ColumnSpec, ...rules: Rule[]) => declare(false, spec, rules);

/** The columns of a row class by name, in the order in which they are declared. */
export function columnsOf(row: new () => object): ReadonlyMap<string, Column> {
  return declared.get(row.prototype) ?? new Map();
}
