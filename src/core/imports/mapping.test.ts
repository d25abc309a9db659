import { describe, expect, it } from 'vitest';
import { NotSuchAFile, checkRow, datesToIso, readHeading } from './heading';
import { dateOrderOf, isoFromNumerals, mappingFaults, proposeMapping, type Mapping } from './mapping';

const HEADINGS = [
  'Student Number',
  'First name',
  'Surname',
  'Mail',
  'Telephone',
  'Class',
  'Cohort',
  'Joined',
  'Shoe size',
];
const ROWS = [
  ['77001', 'Zelda', 'Arkwright', 'z@learner.example', '+44 1632 960999', 'TTU', 'A', '03/04/2026', '38'],
  ['77002', 'Bo', 'Tarn', 'b@learner.example', '', 'TTU', 'B', '05/04/2026', '44'],
];

describe('a proposal', () => {
  it('goes by heading, and leaves what is none of ours', () => {
    const { columns } = proposeMapping('roster', HEADINGS, ROWS);
    expect(columns).toEqual({
      student_number: 'learner_id',
      first_name: 'given_name',
      surname: 'family_name',
      mail: 'email',
      telephone: 'phone',
      class: 'course',
      cohort: 'group',
      joined: 'enrolled_on',
      shoe_size: null,
    });
  });

  it('goes by content where the heading says nothing, and against it where the content says no', () => {
    expect(proposeMapping('roster', ['A', 'B'], [['x@learner.example', 'active']]).columns).toEqual({
      a: 'email',
      b: 'status',
    });
    // A column called mail that holds street names is no e-mail address.
    expect(proposeMapping('roster', ['Mail'], [['Harbour Street']]).columns).toEqual({ mail: null });
  });

  it('gives each of ours to one column alone', () => {
    const { columns } = proposeMapping('roster', ['E-mail', 'Mail', 'Email address'], [Array(3).fill('a@b.example')]);
    expect(Object.values(columns).filter((name) => name === 'email')).toHaveLength(1);
  });
});

describe('the order of day and month', () => {
  it('is certain where a number is over 12, and never guessed otherwise', () => {
    expect(dateOrderOf(['03/04/2026', '25/04/2026'])).toBe('day_first');
    expect(dateOrderOf(['03/04/2026', '04/25/2026'])).toBe('month_first');
    expect(dateOrderOf(['03/04/2026', '05/04/2026'])).toBeNull();
    expect(dateOrderOf(['25/04/2026', '04/25/2026'])).toBeNull();
    expect(dateOrderOf(['2026-04-25', ''])).toBe('iso');
    expect(dateOrderOf([])).toBe('iso');
  });

  it.each([
    ['3.4.2026', 'day_first', '2026-04-03'],
    ['3/4/26', 'month_first', '2026-03-04'],
    ['24-11-2026 9:05', 'day_first', '2026-11-24T09:05:00'],
    ['11/24/2026, 12:10:09 AM', 'month_first', '2026-11-24T00:10:09'],
    ['11/24/2026 1:10 pm', 'month_first', '2026-11-24T13:10:00'],
    ['30.2.2026', 'day_first', '2026-02-30'],
    ['2026-11-24', 'day_first', '2026-11-24'],
    ['soon', 'day_first', 'soon'],
    ['03/04/2026', 'iso', '03/04/2026'],
  ] as const)('%j, %s, is %j', (text, order, iso) => {
    expect(isoFromNumerals(text, order)).toBe(iso);
  });
});

describe('a mapping', () => {
  const mapping = (columns: Mapping['columns']): Mapping => ({
    columns,
    dates: 'day_first',
    timezone: 'Europe/Dublin',
  });
  const good = mapping(proposeMapping('roster', HEADINGS, ROWS).columns);

  it('reads rows as ours, with their dates', () => {
    const heading = readHeading('roster', HEADINGS, good);
    expect(heading.unknown).toEqual(['Shoe size']);
    const taken = (cells: string[]) => checkRow(heading, datesToIso(heading, good.dates, cells));
    expect(taken(ROWS[0]).values).toMatchObject({ learner_id: '77001', enrolled_on: '2026-04-03' });
    const bad = [...ROWS[0]];
    bad[7] = '30/02/2026';
    expect(taken(bad).fault).toEqual({ field: 'enrolled_on', reason: 'is not a date such as 2026-11-24' });
  });

  it('that maps two columns to one is refused and names both', () => {
    const double = mapping({ ...good.columns, shoe_size: 'phone' });
    expect(mappingFaults('roster', HEADINGS, double)).toEqual(['Telephone and Shoe size are both mapped to phone']);
    expect(() => readHeading('roster', HEADINGS, double)).toThrow(NotSuchAFile);
  });

  it('that leaves a needed column out is refused, and one that names a column we do not have', () => {
    expect(() => readHeading('roster', HEADINGS, mapping({ ...good.columns, class: null }))).toThrow('course');
    expect(mappingFaults('roster', ['X'], mapping({ x: 'height' }))).toEqual([
      'X is mapped to height, which a file of the kind roster does not have',
    ]);
  });

  it('leaves files with our own headings as they are', () => {
    const own = ['learner_id', 'given_name', 'course'];
    expect(readHeading('roster', own, good).columns.map((column) => column.name)).toEqual(own);
  });
});
