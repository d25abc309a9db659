import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // Who looked at whom, or took what away. Only ever added to: a look that was written down is neither changed nor taken back.
  await db.raw(`CREATE TABLE look (
     id INTEGER PRIMARY KEY, at INTEGER NOT NULL, staff_id INTEGER REFERENCES staff, learner_id INTEGER REFERENCES learner,
     what TEXT NOT NULL, subject TEXT NOT NULL)`);
  await db.raw('CREATE INDEX look_learner ON look (learner_id, at) WHERE learner_id IS NOT NULL');
  await db.raw('CREATE INDEX look_staff ON look (staff_id, at)');
  await db.raw('CREATE INDEX look_at ON look (at)');
  for (const change of ['UPDATE', 'DELETE'])
    await db.raw(
      `CREATE TRIGGER look_no_${change.toLowerCase()} BEFORE ${change} ON look BEGIN SELECT RAISE(ABORT, 'a look stays as it was written down'); END`,
    );
}

export async function down(db: Knex): Promise<void> {
  await db.raw('DROP TABLE look');
}
