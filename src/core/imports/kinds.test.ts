import { describe, expect, it } from 'vitest';
import { Needed, Optional, columnsOf } from './column';
import { FILE_KINDS, FILE_KIND_NAMES, columnNames, columnsOfKind } from './kinds';
import { IsDate, oneOf } from './validators';

/** The page of docs that tells whoever makes a file what it holds. */
function documentation(): string {
  const parts = FILE_KIND_NAMES.map((kind) => {
    const lines = [...columnsOfKind(kind)].map(
      ([name, { says, isNeeded, isTime }]) =>
        `| \`${name}\` | ${says} | ${isNeeded ? 'yes' : ''} | ${isTime ? 'yes' : ''} |`,
    );
    return `## ${kind}\n\nHolds ${FILE_KINDS[kind].says}.\n\n| column | what stands in it | needed | date or time |\n|---|---|---|---|\n${lines.join('\n')}\n`;
  });
  return `# Files that are taken\n\nMade from the row classes in \`src/core/imports/rows\`; a test keeps it true. Headings may stand in any order, other columns are named and left aside, and other headings are mapped once.\n\n${parts.join('\n')}`;
}

describe('kinds of files', () => {
  it('have their columns in the order of their class', () => {
    expect(columnNames('access-log')).toEqual([
      'time',
      'learner_id',
      'course',
      'item_id',
      'action',
      'address',
      'event_id',
    ]);
    expect(columnNames('roster').slice(0, 3)).toEqual(['learner_id', 'given_name', 'family_name']);
  });

  it('know by their checks what is a time, what is needed and what a cell looks like', () => {
    class Row {
      @Needed({ says: 'a day' }, IsDate.rule) day!: string;
      @Optional({ says: 'a word', synonyms: ['word'] }, oneOf(['yes', 'no'])) answer?: string;
    }
    const columns = columnsOf(Row);
    expect(columns.get('day')).toMatchObject({ isTime: true, isNeeded: true });
    expect(columns.get('answer')).toMatchObject({ isTime: false, isNeeded: false, synonyms: ['word'] });
    expect(columns.get('answer')!.looks!.test('YES')).toBe(true);
    expect(columns.get('answer')!.looks!.test('yes please')).toBe(false);
  });

  it('stand in docs/files.md as they are', async () => {
    await expect(documentation()).toMatchFileSnapshot('../../../docs/files.md');
  });
});
