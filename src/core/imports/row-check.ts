/**
 * Checks of a row's cells, taken from its class's class-validator decorators.
 *
 * `validate()` builds an error tree for every object, which a million rows cannot
 * afford. The decorators stay the one place where a column's rules stand; here they are
 * read out once, and each column remembers the values it has passed.
 */
import { getMetadataStorage, type ValidationArguments } from 'class-validator';
import type { ValidationMetadata } from 'class-validator/types/metadata/ValidationMetadata';

/** Returns why a cell is wrong, or null. */
export type CellCheck = (value: string) => string | null;

/** Values a column remembers; ids, actions and addresses repeat, times do not. */
const REMEMBERED = 20_000;

interface Rule {
  test: (value: string) => boolean;
  says: (value: string) => string;
}

function ruleOf(metadata: ValidationMetadata): Rule[] {
  return getMetadataStorage()
    .getTargetValidatorConstraints(metadata.constraintCls)
    .map((constraint) => {
      const args = (value: string): ValidationArguments => ({
        value,
        constraints: metadata.constraints ?? [],
        targetName: '',
        object: {},
        property: metadata.propertyName,
      });
      return {
        test: (value) => Boolean(constraint.instance.validate(value, args(value))),
        says: (value) => {
          const message = metadata.message ?? constraint.instance.defaultMessage?.(args(value)) ?? 'is not right';
          return typeof message === 'function' ? message(args(value)) : message;
        },
      };
    });
}

/** A check for every column of a row class, by column name. */
export function cellChecks(row: new () => object): Map<string, CellCheck> {
  const metadata = getMetadataStorage().getTargetValidationMetadatas(row, '', true, false);
  const byColumn = getMetadataStorage().groupByPropertyName(metadata);
  return new Map(
    Object.entries(byColumn).map(([column, list]) => {
      const optional = list.some((entry) => entry.type === 'conditionalValidation');
      // Decorators register from the bottom up; written order reads better: missing before malformed.
      const rules = [...list]
        .reverse()
        .filter((entry) => entry.type === 'customValidation')
        .flatMap(ruleOf);
      rules.sort((a, b) => Number(b.says('') === 'is missing') - Number(a.says('') === 'is missing'));
      return [column, remembering((value) => (optional && value === '' ? null : firstFault(rules, value)))];
    }),
  );
}

function firstFault(rules: readonly Rule[], value: string): string | null {
  const broken = rules.find((rule) => !rule.test(value));
  return broken ? broken.says(value) : null;
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
