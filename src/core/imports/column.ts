/** Declaring a column of a file beside its checks. */
import { getMetadataStorage } from 'class-validator';

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
}

const declared = new WeakMap<object, Map<string, ColumnSpec>>();
const known = new WeakMap<object, ReadonlyMap<string, Column>>();

/**
 * Makes a property of a row class a column of its file. The class's properties are the columns, in their order;
 * the checks stand beside it as class-validator's decorators.
 *
 * @example
 * class RosterRow {
 *   @Column({ says: 'the learner’s id', synonyms: ['student_id'] }) @IsNotEmpty(missing) learner_id!: string;
 * }
 */
export function Column(spec: ColumnSpec): PropertyDecorator {
  return (prototype, name) => {
    const columns = declared.get(prototype) ?? new Map<string, ColumnSpec>();
    declared.set(prototype, columns.set(String(name), spec));
  };
}

const TIMES = ['isDate', 'isInstant'];
const MAIL = /^[^\s@]+@[^\s@]+\.[^\s@]+$/;

/** The columns of a row class by name, in the order in which they are declared. */
export function columnsOf(row: new () => object): ReadonlyMap<string, Column> {
  const found = known.get(row);
  if (found) return found;
  const checks = getMetadataStorage().getTargetValidationMetadatas(row, '', true, false);
  const columns = new Map(
    [...(declared.get(row.prototype) ?? [])].map(([name, spec]): [string, Column] => {
      const own = checks.filter((check) => check.propertyName === name);
      const oneOf = own.find((check) => check.name === 'isIn')?.constraints[0] as readonly string[] | undefined;
      const looks = oneOf
        ? new RegExp(`^(${oneOf.join('|')})$`, 'i')
        : own.some((check) => check.name === 'isEmail')
          ? MAIL
          : undefined;
      return [
        name,
        {
          looks,
          ...spec,
          isTime: own.some((check) => TIMES.includes(check.name ?? '')),
          isNeeded: !own.some((check) => check.type === 'conditionalValidation'),
        },
      ];
    }),
  );
  known.set(row, columns);
  return columns;
}
