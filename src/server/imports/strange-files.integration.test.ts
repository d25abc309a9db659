import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { checkAll } from '../check';
import { bringIn, counts, logOf, smallRuntime, type TestRuntime } from '../testing';

let runtime: TestRuntime;
beforeEach(async () => {
  runtime = await smallRuntime();
});
afterEach(() => runtime.close());

const rejectsOf = (id: number) => readFileSync(join(runtime.settings.dataDir, 'rejects', `${id}.csv`), 'utf8');

/** What is said of the rejected rows: field and reason. */
async function faults(kind: string, content: string | Buffer, more: Record<string, string> = {}) {
  const run = await bringIn(runtime, kind, content, more);
  if (run.rejected === 0) return [];
  return rejectsOf(run.id)
    .trimEnd()
    .split('\r\n')
    .slice(1)
    .map((line) => line.split(',').slice(1, 3).join(' '));
}

describe('many rows alike', () => {
  const CLICK = '2026-11-20T10:00:00Z,L1,DRY,D1,opened';

  it('each cost the same: thousands of true clicks in one instant stay, and are known again', async () => {
    const rows = Array.from({ length: 30_000 }, () => CLICK);
    expect(counts(await bringIn(runtime, 'access-log', logOf(rows)))).toMatchObject({ accepted: 30_000 });
    const began = performance.now();
    expect(counts(await bringIn(runtime, 'access-log', logOf([...rows, CLICK])))).toMatchObject({
      accepted: 1,
      duplicate: 30_000,
    });
    // Quadratic, it took minutes: this is no measure of speed, but of whether it ends.
    expect(performance.now() - began).toBeLessThan(20_000);
    expect((await checkAll(runtime)).problems).toEqual([]);
  });

  it('may be of several people and looks in turn', async () => {
    const looks = ['L1,DRY,D1,opened', 'L1,DRY,D2,opened', 'L2,DRY,D1,opened', 'L1,DRY,D1,viewed', 'S3,DRY,D1,opened'];
    const rows = Array.from({ length: 500 }, (_, i) => `2026-11-20T10:00:00Z,${looks[i % looks.length]}`);
    await bringIn(runtime, 'access-log', logOf(rows));
    expect(counts(await bringIn(runtime, 'access-log', logOf([...rows].reverse())))).toMatchObject({ duplicate: 500 });
    expect(
      counts(await bringIn(runtime, 'access-log', logOf([...rows, ...looks.map((l) => `2026-11-20T10:00:00Z,${l}`)]))),
    ).toMatchObject({ accepted: looks.length, duplicate: 500 });
  });
});

describe('times', () => {
  it('before 1990, or two years before the course, are rejected by name', async () => {
    expect(
      await faults(
        'access-log',
        logOf([
          '1600-01-01T10:00:00Z,L1,DRY,D1,opened',
          '2024-09-20T10:00:00Z,L1,DRY,D1,opened',
          '2024-10-05T10:00:00Z,L1,DRY,D1,opened',
        ]),
      ),
    ).toEqual(['time lies before 1990', 'time lies more than two years before course DRY begins']);
    expect(await faults('roster', 'learner_id,given_name,course,enrolled_on\nL8,A,DRY,1066-10-14\n')).toEqual([
      'enrolled_on lies before 1990 or after 2199',
    ]);
  });

  it('that the clocks left out are none', async () => {
    expect(
      await faults(
        'access-log',
        logOf(['2026-03-29T01:30:00,L1,DRY,D1,opened', '2026-03-29T02:30:00,L1,DRY,D1,opened']),
      ),
    ).toEqual(['time is none in Europe/Dublin: the clocks left it out']);
    const outline = 'course,item_id,item,kind,due_at\nDRY,D9,Wall,page,2026-03-29T01:30\n';
    expect(await faults('outline', outline)).toEqual(['due_at is none in Europe/Dublin: the clocks left it out']);
  });

  it('end after they begin, also where the file has only one of them', async () => {
    expect(
      await faults('roster', 'learner_id,given_name,course,status,ended_on\nL1,Ines,DRY,withdrawn,2026-09-01\n'),
    ).toEqual(['ended_on "the enrolment would end on 2026-09-01']);
    expect(await faults('outline', 'course,ends_on,item_id,item,kind\nDRY,2026-01-01,D1,Stone,page\n')).toEqual([
      'ends_on "the course would end on 2026-01-01',
    ]);
    await bringIn(runtime, 'outline', 'course,item_id,item,kind,opens_at\nDRY,D9,Wall,page,2026-11-10T10:00Z\n');
    expect(await faults('outline', 'course,item_id,item,kind,due_at\nDRY,D9,Wall,page,2026-11-09T10:00Z\n')).toEqual([
      'due_at the item would be due before it opens',
    ]);
  });
});

describe('ids', () => {
  it('that differ by capitals alone, or hold what cannot be seen, are no new ones', async () => {
    expect(
      await faults(
        'roster',
        'learner_id,given_name,course,group,organisation\nl1,Ines,DRY,A,\nL8,A,dry,A,\nL8,A,DRY,a,\nL8,A,DRY,A,norrick\nL\u200b8,A,DRY,A,\n',
      ),
    ).toEqual([
      'learner_id is L1 in another spelling: write it the same',
      'course is DRY in another spelling: write it the same',
      'group is A in another spelling: write it the same',
      'organisation is Norrick in another spelling: write it the same',
      'learner_id holds a character that cannot be seen',
    ]);
    expect(
      await faults(
        'outline',
        'course,item_id,item,kind,points\nDRY,d1,Stone,page,5\nD/Y,D1,Stone,page,5\nDRY,D1,Stone,page,-1\n',
      ),
    ).toEqual(['item_id is D1 in another spelling: write it the same', 'course holds a /', 'points is less than 0']);
    expect(
      await faults('staff', 'staff_id,given_name,email,role,scope_kind,scope\ns1,A,new@staff.example,lead,all,\n'),
    ).toEqual(['staff_id is S1 in another spelling: write it the same']);
  });

  it('of events stand for what one person did', async () => {
    const log = (who: string) =>
      `time,learner_id,course,item_id,action,event_id\n2026-11-20T10:00:00Z,${who},DRY,D1,opened,e-1\n`;
    expect((await bringIn(runtime, 'access-log', log('L1'))).accepted).toBe(1);
    expect((await bringIn(runtime, 'access-log', log('L1'))).duplicate).toBe(1);
    expect(await faults('access-log', log('L2'))).toEqual(['event_id stands for something that another person did']);
  });
});

describe('text', () => {
  it('may break its rows in any way, and in several', async () => {
    const rows = ['2026-11-20T10:00:00Z,L1,DRY,D1,opened', '2026-11-21T10:00:00Z,L1,DRY,D1,opened'];
    const heading = 'time,learner_id,course,item_id,action';
    expect((await bringIn(runtime, 'access-log', `${heading}\r\n${rows[0]}\n${rows[1]}\r`)).accepted).toBe(2);
    const quoted = '"2026-11-22T10:00:00Z",L1,DRY,D1,"opened"';
    expect(
      (await bringIn(runtime, 'access-log', `${heading}\n${quoted}\r\n2026-11-22T11:00:00Z,L1,DRY,D1,opened`)).accepted,
    ).toBe(2);
  });

  it('with one wrong byte stays UTF-8, and loses that row alone', async () => {
    const text = 'learner_id,given_name,course\nN1,Zoë,DRY\nN2,Bé\u0000a,DRY\nN3,Ünal,DRY\n';
    const bytes = Buffer.from(text);
    bytes[bytes.indexOf(0)] = 0xff;
    expect(await faults('roster', bytes)).toEqual([' holds bytes that are no utf-8 text']);
    expect(await runtime.db('learner').where('external_id', 'N3').first('given_name')).toEqual({ given_name: 'Ünal' });
  });

  it('that was rejected, mended and brought in again, is what it was', async () => {
    const odd = `time,learner_id,course,item_id,action,address,shoe,event_id
2026-11-20T10:00:00Z,L1,DRY,NOT,opened,=1+1,41,'@x
2026-11-20T10:00:00Z,-5,DRY,D1,opened,a,42,e2
`;
    const run = await bringIn(runtime, 'access-log', odd);
    expect(counts(run)).toMatchObject({ rejected: 2 });
    const mended = rejectsOf(run.id).replace(',NOT,', ',D1,').replace(',-5,', ',L2,');
    expect(counts(await bringIn(runtime, 'access-log', mended))).toMatchObject({ accepted: 2, rejected: 0 });
    expect(await runtime.db('event').orderBy('id').select('address', 'external_id')).toEqual([
      { address: '=1+1', external_id: "'@x" },
      { address: 'a', external_id: 'e2' },
    ]);
    // Every cell is kept, under its own heading.
    expect(mended.split('\r\n')[0]).toBe(
      'line,field,reason,time,learner_id,course,item_id,action,address,shoe,event_id',
    );
    expect(mended).toContain(',41,');
  });

  it('in a mapped file keeps its own headings and dates', async () => {
    const mapping = JSON.stringify({
      columns: { when: 'time', who: 'learner_id', where: 'course', what: 'action' },
      dates: 'day_first',
      timezone: 'Europe/Dublin',
    });
    const own = 'When,Who,Where,What\n03/11/2026 10:00,L1,NOWHERE,opened\n';
    const run = await bringIn(runtime, 'access-log', own, { source: 'north', mapping });
    const mended = rejectsOf(run.id).replace(',NOWHERE,', ',DRY,');
    expect(mended).toContain('When,Who,Where,What');
    expect((await bringIn(runtime, 'access-log', mended, { source: 'north' })).accepted).toBe(1);
    expect(await runtime.db('event').pluck('at')).toEqual([Date.parse('2026-11-03T10:00:00Z')]);
  });
});
