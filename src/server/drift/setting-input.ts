/** The numbers of a setting of drift as they come in. */
import { IsNotEmpty, IsOptional, Matches, MaxLength } from 'class-validator';
import { DEFAULT_PART_RULES } from '@/core/drift/order';
import { FACTORS } from '@/core/drift/model';
import { SETTING_NUMBERS, type DriftSetting } from '@/core/drift/setting';
import { InvalidInput, readInput, type Values } from '../request/input';

const missing = { message: 'is missing' };

export class SettingNumbers {
  /** A course's code, for a setting of its own. */
  @IsOptional() @MaxLength(200, { message: 'is longer than 200 characters' }) course?: string;
}

export class SettingInput extends SettingNumbers {
  @IsNotEmpty(missing) @MaxLength(500, { message: 'is longer than 500 characters' }) words!: string;
}

/** A course's Watch goes by the programme's days: somebody may be in several courses. */
const OF_PROGRAMME = ['away', 'contacted'];

/** What a number may be, by its name; a weight where it has none of its own. */
const RANGES: Readonly<Record<string, { pattern: RegExp; says: string }>> = {
  slipping: { pattern: /^[1-9]\d?$/, says: 'is not a number from 1 to 99' },
  adrift: { pattern: /^[1-9]\d?$/, says: 'is not a number from 1 to 99' },
  away: { pattern: /^([3-9]|[1-9]\d|[12]\d\d|3[0-5]\d|36[0-5])$/, says: 'is not a number of days from 3 to 365' },
  contacted: { pattern: /^([1-9]|[1-9]\d|[12]\d\d|3[0-5]\d|36[0-5])$/, says: 'is not a number of days from 1 to 365' },
};
const WEIGHT = { pattern: /^(100(\.0)?|\d{1,2}(\.\d)?)$/, says: 'is not a weight from 0 to 100' };

for (const { name } of SETTING_NUMBERS) {
  const { pattern, says } = RANGES[name] ?? WEIGHT;
  if (OF_PROGRAMME.includes(name)) IsOptional()(SettingNumbers.prototype, name);
  else IsNotEmpty(missing)(SettingNumbers.prototype, name);
  Matches(pattern, { message: says })(SettingNumbers.prototype, name);
}

/** Reads a setting, with the words for it where they are asked for. @throws InvalidInput naming every field that is wrong */
export function readSettingInput<T extends SettingNumbers>(
  input: new () => T,
  values: Values,
): { given: T; setting: DriftSetting } {
  const given = readInput(input, values);
  const numbers = given as unknown as Record<string, string | undefined>;
  const number = (name: string) => Number(numbers[name]);
  if (given.course === undefined) {
    const unset = OF_PROGRAMME.filter((name) => numbers[name] === undefined);
    if (unset.length > 0) throw new InvalidInput(unset.map((field) => ({ field, message: 'is missing' })));
  }
  if (number('slipping') >= number('adrift'))
    throw new InvalidInput([{ field: 'adrift', message: 'does not lie above slipping' }]);
  for (const end of ['early', 'late'])
    if (FACTORS.every(({ name }) => number(`${name}_${end}`) === 0))
      throw new InvalidInput(
        FACTORS.map(({ name }) => ({ field: `${name}_${end}`, message: 'is 0 like all others: one has to count' })),
      );
  return {
    given,
    setting: {
      weights: Object.fromEntries(
        FACTORS.map(({ name }) => [name, { early: number(`${name}_early`), late: number(`${name}_late`) }]),
      ),
      edges: { slipping: number('slipping'), adrift: number('adrift') },
      parts:
        given.course === undefined
          ? { ...DEFAULT_PART_RULES, away: number('away'), contacted: number('contacted') }
          : DEFAULT_PART_RULES,
    },
  };
}
