import { afterAll, beforeAll, expect, it } from 'vitest';
import { DEFAULT_EDGES, LEAVE_MARGIN, combine, type EnrolmentReading } from '@/core/drift/bands';
import type { Band } from '@/core/drift/bands';
import { openDb, type Db } from '../db';
import { combinedBand, combinedScore } from './drift';

let db: Db;
beforeAll(async () => {
  db = openDb(':memory:');
  await db.raw('CREATE TABLE r (learner INTEGER, score REAL, band INTEGER)');
});
afterAll(() => db.destroy());

const SCORES = [null, 0, 34, 35, 36, 39.9, 40, 59, 60, 61, 64.9, 65, 100];

it('the drift over several courses is in SQL what it is in core, at every edge', async () => {
  const readings = SCORES.flatMap((score): EnrolmentReading[] =>
    score === null ? [{ score, band: null }] : ([0, 1, 2] as Band[]).map((band) => ({ score, band })),
  );
  const learners = readings.flatMap((one) => [[one], ...readings.map((other) => [one, other])]);
  const rows = learners.flatMap((own, learner) => own.map((reading) => ({ learner, ...reading })));
  await db.batchInsert('r', rows, 200);
  const found = await db('r')
    .groupBy('learner')
    .orderBy('learner')
    .select(
      db.raw(`${combinedScore('r')} AS score`),
      db.raw(`${combinedBand(DEFAULT_EDGES, LEAVE_MARGIN, 'r')} AS band`),
    );
  expect(found).toHaveLength(learners.length);
  for (const [learner, own] of learners.entries()) {
    const expected = combine(own);
    expect([own, found[learner].band]).toEqual([own, expected.band]);
    if (expected.score === null) expect(found[learner].score).toBeNull();
    else expect(found[learner].score).toBeCloseTo(expected.score, 9);
  }
});
