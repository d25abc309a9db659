import { buffer, text } from 'node:stream/consumers';
import ExcelJS from 'exceljs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { RowsPer } from '@/core/reports/definition';
import { without } from '@/core/without';
import type { Viewer } from '@/data/scope';
import { recalculate } from '../drift/recalculate';
import { InvalidInput, NotFound, type Values } from '../request/input';
import { bringIn, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { COLUMNS, columnsShown, fits, mayBeFor } from './columns';
import { readDefinition } from './define';
import { reportFile } from './files';
import { dropReport, makeReport, openKept, reportOf, reportsOf, saveReport, shareWith } from './kept';
import { openReport } from './open';
import { READY_REPORTS } from './ready';

let runtime: TestRuntime;
let lead: Viewer;
let mentor: Viewer;
let coordinator: Viewer;

beforeAll(async () => {
  runtime = await smallRuntime(['2026-11-20T10:00:00Z,L1,DRY,D1,opened', '2026-11-21T10:00:00Z,L2,DRY,D1,opened']);
  await bringIn(
    runtime,
    'roster',
    `learner_id,given_name,family_name,organisation,course,group,enrolled_on\n${[1, 2, 3, 4, 5]
      .map((n) => `M${n},Given${n},Family${n},Carrow,DRY,A,2026-09-28`)
      .join('\n')}\n`,
  );
  await bringIn(
    runtime,
    'results',
    `learner_id,course,item_id,attempt,submitted_at,score,points,feedback\n${[1, 2, 3, 4, 5]
      .map((n) => `M${n},DRY,D2,1,2026-11-0${n}T10:00:00Z,${n + 4},10,Well done ${n}`)
      .join('\n')}\n`,
  );
  await bringIn(
    runtime,
    'sessions',
    `course,group,session_id,title,starts_at,ends_at,mode
DRY,A,S1,Walls,2026-11-10T18:30:00Z,2026-11-10T19:30:00Z,online
DRY,A,S2,Stones,2026-11-17T18:30:00Z,2026-11-17T19:30:00Z,online
`,
  );
  await bringIn(runtime, 'marks', 'session_id,learner_id,mark\nS1,L1,present\nS2,L1,absent\nS1,M1,late\n');
  await recalculate(runtime);
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  mentor = await viewerByEmail(runtime, 'mentor@staff.example');
  coordinator = await viewerByEmail(runtime, 'norrick@partner.example');
});
afterAll(() => runtime.close());

const CHOSEN = { name: 'A report', per: 'enrolment', columns: ['name', 'progress'], for: 'staff' };

async function rows(viewer: Viewer, values: Values): Promise<Record<string, unknown>[]> {
  const { definition } = await readDefinition(runtime, viewer, { ...CHOSEN, ...values });
  const open = await openReport(runtime, viewer, definition, { isNew: true });
  const { data, total } = JSON.parse(await text(reportFile(runtime, open, 'json')));
  expect(total).toBe(data.length);
  return data;
}

async function fault(viewer: Viewer, values: Values): Promise<{ field: string; message: string }[]> {
  const error = await makeReport(runtime, viewer, { ...CHOSEN, ...values }).catch((thrown: unknown) => thrown);
  expect(error).toBeInstanceOf(InvalidInput);
  return (error as InvalidInput).errors;
}

describe('the list of columns', () => {
  it('names each once, with its unit, one sentence, and whether it may leave the staff', () => {
    const shown = columnsShown();
    expect(new Set(shown.map(({ name }) => name)).size).toBe(shown.length);
    for (const { says, title } of shown) {
      expect(title).not.toBe('');
      expect(says).toMatch(/[.?]$/);
    }
    expect(shown.find(({ name }) => name === 'minutes_online')).toMatchObject({ unit: 'minutes', per: 'learner' });
  });

  it('lets no drift, band, reason, contact, remark or number of somebody’s leave', () => {
    const leaving = COLUMNS.filter(({ leaves }) => leaves).map(({ name }) => name);
    const staying = [
      'drift',
      'band',
      'reasons',
      'drift_week_ago',
      'pattern',
      'remark',
      'email',
      'phone',
      'last_contact',
    ];
    for (const name of [...staying, 'contacts', 'contacted_by', 'contact_list', 'answered', 'came_back'])
      expect(leaving).not.toContain(name);
  });

  it.each(['learner', 'enrolment', 'item', 'session'] as const)(
    'gives every row for each %s its columns, and what leaves says no label of ours and nobody else’s name',
    async (per: RowsPer) => {
      const leaving = COLUMNS.filter((column) => fits(per, column) && mayBeFor('outside', column));
      const own = { per, columns: leaving.map(({ name }) => name), items: ['D2'], averages: 'course', for: 'outside' };
      const data = await rows(lead, own);
      const names = ['Ines', 'Tobias', 'Halima', 'Petra', 'Hesper', 'Mair', 'Jory', 'Given1', 'Given2'];
      for (const row of data) {
        const said = JSON.stringify(row);
        expect(said).not.toMatch(/adrift|slipping|on course|drift/i);
        const given = String(row.given_name);
        for (const name of names) if (name !== given) expect(said).not.toContain(name);
      }
      expect(data.length).toBeGreaterThan(0);
    },
  );
});

describe('a definition', () => {
  it.each([
    [{ name: ' ' }, 'name', /missing/],
    [{ per: 'week' }, 'per', /not one of learner/],
    [{ columns: [] }, 'columns', /missing/],
    [{ columns: 'name' }, 'columns', /not a list/],
    [{ columns: ['name', 7] }, 'columns', /no name/],
    [{ columns: ['nonsense'] }, 'columns', /has no column nonsense/],
    [{ columns: ['name', 'drift'], for: 'outside' }, 'columns', /drift, which may not leave/],
    [{ columns: ['score'] }, 'columns', /score, which a row for each enrolment does not have/],
    [{ per: 'session', columns: ['score'] }, 'columns', /score/],
    [{ columns: ['scores'] }, 'items', /missing/],
    [{ columns: ['scores'], items: ['D9'] }, 'items', /no item or category D9/],
    [{ for: 'everybody' }, 'for', /not one of staff/],
    [{ from: 'yesterday' }, 'from', /not a/],
    [{ from: '2026-11-10', to: '2026-11-01' }, 'to', /before it starts/],
    [{ period: '7-days', from: '2026-11-10' }, 'period', /beside from/],
    [{ period: 'constructor' }, 'period', /not one of/],
    [{ only: 'held' }, 'only', /each session/],
    [{ averages: 'all' }, 'averages', /not one of/],
    [{ whose: 'DRY' }, 'whose', /not an object/],
    [{ whose: { course: 'NOPE' } }, 'whose.course', /nothing of yours/],
    [{ whose: { caseload: 'x' } }, 'whose.caseload', /names nothing of yours/],
    [{ whose: { learners: ['L1', 'L99'] } }, 'whose.learners', /L99/],
    [{ whose: { learners: 'L1' } }, 'whose.learners', /not a list/],
    [{ whose: { filter: { quiet: 'long' } } }, 'whose.filter.quiet', /not a number/],
    [{ whose: { filter: [1] } }, 'whose.filter', /not an object/],
  ])('%o is refused at %s', async (values, field, message) => {
    const errors = await fault(lead, values);
    expect(errors[0]).toMatchObject({ field });
    expect(errors[0].message).toMatch(message);
  });

  it('is refused of what somebody else sees, as of what is not there', async () => {
    expect((await fault(coordinator, { whose: { organisation: 'Penhallow' } }))[0].field).toBe('whose.organisation');
    expect((await fault(coordinator, { whose: { learners: ['L2'] } }))[0].message).toContain('L2');
    expect((await fault(mentor, { whose: { course: 'NET', filter: {} } }))[0].field).toBe('whose.course');
  });

  it('refuses a filter that nobody knows, which would let everybody in', async () => {
    for (const filter of [{ organization: 'Norrick' }, { constructor: 'x' }, 'quiet=7&bands=2'])
      await expect(rows(lead, { whose: { filter } })).rejects.toThrow(/is no filter of the list of learners/);
  });

  it('takes a filter as a list is asked, as an object or as a link has it', async () => {
    const columns = ['learner_id'];
    const one = await rows(lead, { per: 'learner', columns, whose: { filter: { quiet: 4, sort: '-days_quiet' } } });
    const two = await rows(lead, { per: 'learner', columns, whose: { filter: 'quiet=4&sort=-days_quiet&limit=1' } });
    expect(one).toEqual(two);
    expect(one.map((row) => row.learner_id)).not.toContain('L2');
    expect(one.at(-1)).toEqual({ learner_id: 'L1' });
  });
});

describe('rows', () => {
  it('are of each learner, over the courses in view', async () => {
    const columns = ['learner_id', 'courses', 'days_quiet', 'minutes_in_period'];
    const data = await rows(lead, { per: 'learner', columns, from: '2026-11-20', to: '2026-11-21' });
    expect(data.find((row) => row.learner_id === 'L1')).toEqual({
      learner_id: 'L1',
      courses: ['DRY', 'NET'],
      days_quiet: 4,
      minutes_in_period: 1,
    });
    expect(data.find((row) => row.learner_id === 'L2')).toMatchObject({ minutes_in_period: 0 });
    // Who has left is in it only when asked for.
    expect(data.map((row) => row.learner_id)).not.toContain('L5');
  });

  it('are of each course, with averages of five or more beside the figures', async () => {
    const columns = ['learner_id', 'course', 'on_graded_work', 'attendance_rate'];
    const data = await rows(lead, { columns, averages: 'course' });
    expect(data.find((row) => row.learner_id === 'M1')).toEqual({
      learner_id: 'M1',
      course: 'DRY',
      on_graded_work: 50,
      on_graded_work_average: 70,
      attendance_rate: 0.75,
      // Two have a mark: their average would tell of the other.
      attendance_rate_average: null,
    });
    expect(data.filter((row) => row.learner_id === 'L1').map((row) => row.course)).toEqual(['DRY', 'NET']);
    expect(await rows(lead, { columns, averages: true })).toEqual(data);
    expect(Object.keys((await rows(lead, { columns, averages: false }))[0])).toEqual(columns);
  });

  it('have the average of those alone whom the reader sees', async () => {
    const [row] = await rows(coordinator, { columns: ['learner_id', 'on_graded_work'], averages: 'course' });
    expect(row).toEqual({ learner_id: 'L1', on_graded_work: null, on_graded_work_average: null });
  });

  it('give the same figures from what is kept as from every fact', async () => {
    const figures = ['progress', 'done', 'required', 'behind', 'on_graded_work', 'of_whole_course', 'overdue'];
    const kept = await rows(lead, { columns: ['learner_id', ...figures] });
    const worked = await rows(lead, { columns: ['learner_id', ...figures, 'if_missing_scores_0'] });
    expect(worked.map((row) => without(row, 'if_missing_scores_0'))).toEqual(kept);
  });

  it('have a column for each chosen item and category', async () => {
    const data = await rows(lead, { columns: ['learner_id', 'scores', 'states'], items: ['D2', 'D1'] });
    expect(data.find((row) => row.learner_id === 'M2')).toEqual({
      learner_id: 'M2',
      'scores:D2': 60,
      'scores:D1': null,
      'states:D2': 'done',
      'states:D1': 'not started',
    });
  });

  it('are of each item, cut to those that are asked for', async () => {
    const columns = ['learner_id', 'item_id', 'percent', 'percent_average', 'feedback'];
    const data = await rows(lead, { per: 'item', columns, averages: 'group', only: 'scored' });
    expect(data).toHaveLength(5);
    expect(data[0]).toEqual({
      learner_id: 'M1',
      item_id: 'D2',
      percent: 50,
      percent_average: 70,
      feedback: 'Well done 1',
    });
    expect(await rows(lead, { per: 'item', columns: ['item_id'], items: ['N1'] })).toHaveLength(2);
  });

  it('are of each session, those held or missed alone', async () => {
    const columns = ['learner_id', 'session_id', 'mark', 'outcome'];
    const whose = { learners: ['L1'] };
    expect(await rows(lead, { per: 'session', columns, whose, only: 'held' })).toEqual([
      { learner_id: 'L1', session_id: 'S1', mark: 'present', outcome: 'attended' },
      { learner_id: 'L1', session_id: 'S2', mark: 'absent', outcome: 'missed' },
    ]);
    expect(await rows(lead, { per: 'session', columns, whose, only: 'missed' })).toHaveLength(1);
  });

  it('are those of the reader’s own people and nobody’s else', async () => {
    const ids = async (viewer: Viewer) => {
      const data = await rows(viewer, {
        per: 'learner',
        columns: ['learner_id'],
        whose: { filter: { status: 'all' } },
      });
      return data.map((row) => row.learner_id).sort();
    };
    expect(await ids(coordinator)).toEqual(['L1', 'L5']);
    expect(await ids(mentor)).toEqual(['L1', 'L4', 'L5', 'M1', 'M2', 'M3', 'M4', 'M5']);
  });

  it('are none where nobody is in it, in every format', async () => {
    const { definition } = await readDefinition(runtime, lead, { ...CHOSEN, whose: { filter: { q: 'nobody' } } });
    const open = await openReport(runtime, lead, definition);
    expect(await text(reportFile(runtime, open, 'csv'))).toBe('name,progress\r\n');
    expect(JSON.parse(await text(reportFile(runtime, open, 'json')))).toMatchObject({ data: [], total: 0 });
  });
});

describe('a workbook', () => {
  const load = async (values: Values, layout: 'table' | 'pages') => {
    const { definition } = await readDefinition(runtime, lead, { ...CHOSEN, ...values });
    const open = await openReport(runtime, lead, definition);
    const book = new ExcelJS.Workbook();
    await book.xlsx.load((await buffer(reportFile(runtime, open, 'xlsx', { title: 'Where', layout }))) as never);
    return book;
  };

  it('has typed cells, a frozen head, a filter and widths', async () => {
    const columns = ['name', 'enrolled_on', 'last_access', 'on_graded_work', 'progress'];
    const [sheet] = (await load({ columns }, 'table')).worksheets;
    expect(sheet.name).toBe('Where');
    expect(sheet.views[0]).toMatchObject({ state: 'frozen', ySplit: 1 });
    expect(sheet.autoFilter).toBe(`A1:E${sheet.rowCount}`);
    expect(sheet.getColumn(1).width).toBe(24);
    const ines = sheet.getRows(2, sheet.rowCount)!.find((row) => row.getCell(1).value === 'Ines Marrow')!;
    expect(ines.getCell(1).value).toBe('Ines Marrow');
    expect(ines.getCell(2).value).toEqual(new Date('2026-09-28'));
    expect(ines.getCell(3).value).toEqual(new Date('2026-11-20T10:00:00Z'));
    expect(ines.getCell(5).value).toBe(0.5);
    expect(ines.getCell(5).numFmt).toBe('0%');
  });

  it('has a sheet for each learner, no two of a name', async () => {
    const book = await load({ columns: ['course', 'progress'] }, 'pages');
    const names = book.worksheets.map(({ name }) => name);
    expect(names).toContain('Ines Marrow');
    expect(new Set(names.map((name) => name.toLowerCase())).size).toBe(names.length);
    expect(book.getWorksheet('Ines Marrow')!.rowCount).toBe(3);
  });
});

describe('a kept report', () => {
  it('is whose it is: found, changed and taken away by them alone', async () => {
    const id = String(await makeReport(runtime, mentor, { ...CHOSEN, name: 'Mine' }));
    expect((await reportsOf(runtime, mentor)).map(({ name }) => name)).toContain('Mine');
    expect((await reportsOf(runtime, lead)).map(({ name }) => name)).not.toContain('Mine');
    await expect(reportOf(runtime, lead, id)).rejects.toThrow(NotFound);
    await expect(saveReport(runtime, lead, id, { ...CHOSEN, name: 'Theirs' })).rejects.toThrow(NotFound);
    await expect(dropReport(runtime, coordinator, id)).rejects.toThrow(NotFound);
    await dropReport(runtime, mentor, id);
    await expect(reportOf(runtime, mentor, id)).rejects.toThrow(NotFound);
  });

  it('shared, shows each only whom they may see', async () => {
    const values = { ...CHOSEN, name: 'Of two', columns: ['learner_id'], whose: { learners: ['L1', 'L2', 'L3'] } };
    const id = String(await makeReport(runtime, lead, values));
    await runtime.db('staff').where('email', 'mentor@staff.example').update({ password_hash: 'x' });
    await shareWith(runtime, lead, id, { staff: [mentor.staffId] });
    const { open } = await openKept(runtime, mentor, id);
    expect(JSON.parse(await text(reportFile(runtime, open, 'json'))).data).toEqual([{ learner_id: 'L1' }]);
    expect(open.gone).toEqual(['2 learners']);
    await expect(shareWith(runtime, mentor, id, { staff: [] })).rejects.toThrow(NotFound);
    await expect(shareWith(runtime, lead, id, { staff: [coordinator.staffId] })).rejects.toThrow('no colleague');
  });

  it('changed by two at once is not written over', async () => {
    const id = String(await makeReport(runtime, lead, { ...CHOSEN, name: 'Both' }));
    const { revision } = await reportOf(runtime, lead, id);
    await saveReport(runtime, lead, id, { ...CHOSEN, name: 'First', revision });
    const second = saveReport(runtime, lead, id, { ...CHOSEN, name: 'Second', revision });
    await expect(second).rejects.toThrow(/Hesper Vane has changed this report meanwhile/);
    expect((await reportOf(runtime, lead, id)).name).toBe('First');
  });

  it('goes on without a column, an item or a person that is gone, and says which', async () => {
    const values = { ...CHOSEN, columns: ['learner_id', 'scores'], items: ['D1', 'D2'], whose: { learners: ['L1'] } };
    const id = await makeReport(runtime, lead, values);
    const [{ definition }] = await runtime.db('report').where({ id });
    const kept = JSON.parse(definition);
    kept.columns.push('of_another_version', 'drift');
    kept.items.push('D77');
    kept.for = 'outside';
    await runtime
      .db('report')
      .where({ id })
      .update({ definition: JSON.stringify(kept) });
    const { open } = await openKept(runtime, lead, String(id));
    expect(open.gone).toEqual(['the column of_another_version', 'the column drift', 'the item D77']);
    expect(open.heads.map(({ name }) => name)).toEqual(['learner_id', 'scores:D1', 'scores:D2']);
  });

  it('says that its course is gone, or no longer the viewer’s', async () => {
    const id = await makeReport(runtime, mentor, { ...CHOSEN, whose: { course: 'DRY' } });
    await expect(openKept(runtime, { ...mentor, groups: [] }, String(id))).rejects.toThrow(/whose.course/);
  });

  it('keeps names and what was searched for covered while names are hidden', async () => {
    const id = await makeReport(runtime, lead, { ...CHOSEN, name: 'For Ines', whose: { filter: { q: 'Ines' } } });
    const hidden = { ...lead, standInKey: 'key' };
    const shown = await reportOf(runtime, hidden, String(id));
    expect(JSON.stringify(shown)).not.toContain('Ines');
    const { open } = await openKept(runtime, hidden, String(id));
    expect(await text(reportFile(runtime, open, 'csv'))).not.toContain('Ines');
    // What is shown then is not what it is: saved, its name and its filter would be lost.
    await expect(saveReport(runtime, hidden, String(id), { ...CHOSEN, name: shown.name })).rejects.toThrow('hidden');
  });

  it.each(Object.keys(READY_REPORTS))('comes ready as %s, and runs for everybody', async (id) => {
    const { definition, name } = READY_REPORTS[id];
    for (const viewer of [lead, mentor, coordinator]) {
      const { open } = await openKept(runtime, viewer, id);
      expect(open.gone).toEqual([]);
      await text(reportFile(runtime, open, 'csv'));
    }
    const { whose, ...rest } = definition;
    const made = await makeReport(runtime, lead, { ...rest, whose, name });
    expect((await reportOf(runtime, lead, String(made))).definition).toEqual(definition);
    await dropReport(runtime, lead, String(made));
  });
});
