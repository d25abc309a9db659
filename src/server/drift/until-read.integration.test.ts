import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { DAY, dateOfDay, dayFromDate } from '@/core/time/zone';
import { coursesBeingRead } from '@/data/view';
import { asProblem } from '../request/api';
import { InvalidInput, NotFound } from '../request/input';
import { NotReadYet } from '../request/trouble';
import { openDriftView } from '../request/view';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, logOf, testRuntime, type TestRuntime } from '../testing';
import { readPast, recalculate } from './recalculate';
import { readAnswer, untilRead } from './until-read';
import { DRIFT } from './watch-list';

/** Two courses of ten weeks; everybody opens something every other day. */
const START = dayFromDate('2026-09-14')!;
const TODAY = START + 69;
const COURSES = ['DRY', 'SBE'];
const LEARNERS = COURSES.flatMap((course) => [1, 2, 3].map((number) => ({ course, id: `${course}-${number}` })));
const MIDDLE = dateOfDay(START + 30);

let runtime: TestRuntime;
beforeEach(async () => {
  runtime = await testRuntime(`${dateOfDay(TODAY)}T12:00:00Z`);
  const dates = `${dateOfDay(START)},${dateOfDay(START + 83)}`;
  await bringIn(
    runtime,
    'outline',
    [
      'course,course_title,starts_on,ends_on,item_id,item,kind,required,due_at',
      ...COURSES.flatMap((course) =>
        [1, 2, 3, 4].map(
          (n) =>
            `${course},Course,${dates},${course}-${n},Sheet ${n},assignment,yes,${dateOfDay(START + 7 * n)}T18:00:00Z`,
        ),
      ),
    ].join('\n'),
  );
  await bringIn(
    runtime,
    'roster',
    [
      'learner_id,given_name,course,enrolled_on',
      ...LEARNERS.map(({ course, id }) => `${id},Ines,${course},${dateOfDay(START)}`),
    ].join('\n'),
  );
  await bringIn(
    runtime,
    'access-log',
    logOf(
      Array.from({ length: 34 }, (_, n) => dateOfDay(START + 2 * n)).flatMap((date) =>
        LEARNERS.map(({ course, id }) => `${date}T10:00:00Z,${id},${course},${course}-1,opened`),
      ),
    ),
  );
});
afterEach(() => runtime.close());

const asker = () => ({ runtime, viewer: SYSTEM_VIEWER });
const waiting = async (course?: string) =>
  coursesBeingRead(runtime.db, await openDriftView(runtime, SYSTEM_VIEWER, { course }, MIDDLE), TODAY);

/** Reads the past beside whoever waits for it, as the worker does. */
async function readBeside<T>(work: Promise<T>): Promise<T> {
  const reading = (async () => {
    while (await readPast(runtime));
  })();
  const [result] = await Promise.all([work, reading]);
  return result;
}

describe('an answer that shows drift of a past day', () => {
  it('waits until all in view has been read', async () => {
    expect(await waiting()).toHaveLength(2);
    const answer = await readBeside(readAnswer(DRIFT, asker(), { as_of: MIDDLE }));
    const { data, total } = (await answer.json()) as { data: { drift: number | null }[]; total: number };
    expect(total).toBe(LEARNERS.length);
    expect(data.every(({ drift }) => drift !== null)).toBe(true);
  });

  it('is refused for now where that takes too long, rather than given without', async () => {
    const late = untilRead(runtime, SYSTEM_VIEWER, { as_of: MIDDLE }, { atMost: 200 });
    await expect(late).rejects.toThrow(NotReadYet);
    const answer = asProblem(runtime, new NotReadYet());
    expect([answer.status, answer.headers.get('retry-after')]).toEqual([503, '5']);
    expect(await answer.json()).toMatchObject({ title: 'Being read', detail: expect.stringContaining('Ask again') });
  });

  it('waits for nothing that is not in view, and for no day that is there', async () => {
    const [first] = await waiting('SBE');
    while ((await waiting('SBE')).length > 0) await readPast(runtime, [first]);
    expect(await waiting('DRY')).toHaveLength(1);
    await untilRead(runtime, SYSTEM_VIEWER, { course: 'SBE', as_of: MIDDLE }, { atMost: 0 });
    // The last days are read with each import.
    await untilRead(runtime, SYSTEM_VIEWER, { as_of: dateOfDay(TODAY - 3) }, { atMost: 0 });
  });

  it.each(COURSES)('has the course that is waited for read first: %s', async (course) => {
    const [id] = await waiting(course);
    // Both wait from the beginning; a few steps are enough for one of them.
    for (let step = 0; step < 3; step += 1) await readPast(runtime, [id]);
    expect(await waiting(course)).toEqual([]);
    expect(await waiting(COURSES.find((other) => other !== course))).toHaveLength(1);
  });

  it('names what is wrong with what is asked', async () => {
    const asked = (values: Record<string, string>) => readAnswer(DRIFT, asker(), values);
    const wrong = await asked({ as_of: 'yesterday', limit: '0' }).catch((error: unknown) => error);
    expect(wrong).toBeInstanceOf(InvalidInput);
    expect((wrong as InvalidInput).errors.map(({ field }) => field).sort()).toEqual(['as_of', 'limit']);
    await expect(asked({ as_of: dateOfDay(TODAY + 1) })).rejects.toThrow(/after today/);
    await expect(asked({ course: 'NONE', as_of: MIDDLE })).rejects.toThrow(NotFound);
  });
});

describe('an answer that shows drift of today', () => {
  it('waits until the new day has been read, and shows the day before when that takes long', async () => {
    await untilRead(runtime, SYSTEM_VIEWER, {}, { atMost: 0 });
    runtime.setNow(new Date(Date.parse(`${dateOfDay(TODAY)}T12:00:00Z`) + DAY).toISOString());
    await untilRead(runtime, SYSTEM_VIEWER, {}, { atMost: 100 });
    expect((await openDriftView(runtime, SYSTEM_VIEWER)).readingDay).toBe(TODAY);
    await Promise.all([untilRead(runtime, SYSTEM_VIEWER, {}), recalculate(runtime)]);
    expect((await openDriftView(runtime, SYSTEM_VIEWER)).readingDay).toBe(TODAY + 1);
  });
});
