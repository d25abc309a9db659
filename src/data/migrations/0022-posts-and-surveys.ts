import type { Knex } from 'knex';

export async function up(db: Knex): Promise<void> {
  // What was written in discussions: by a learner, or by staff of the course. Another source's file of the same ids is the same.
  await db.raw(`CREATE TABLE post (
     id INTEGER PRIMARY KEY, learner_id INTEGER REFERENCES learner, staff_id INTEGER REFERENCES staff,
     course_id INTEGER NOT NULL REFERENCES course, item_id INTEGER REFERENCES item, at INTEGER NOT NULL,
     text TEXT NOT NULL, words INTEGER NOT NULL, external_id TEXT, reply_to TEXT, statement_id INTEGER,
     CHECK ((learner_id IS NULL) <> (staff_id IS NULL)))`);
  await db.raw('CREATE UNIQUE INDEX post_external ON post (course_id, external_id) WHERE external_id IS NOT NULL');
  // With all that is counted of them, so that counting does not touch the texts.
  await db.raw(
    'CREATE INDEX post_learner ON post (learner_id, course_id, at, item_id, words, reply_to) WHERE learner_id IS NOT NULL',
  );
  await db.raw('CREATE INDEX post_staff ON post (staff_id, at) WHERE staff_id IS NOT NULL');
  await db.raw('CREATE INDEX post_course ON post (course_id, at)');
  await db.raw('CREATE INDEX post_item ON post (item_id, at) WHERE item_id IS NOT NULL');
  await db.raw('CREATE INDEX post_at ON post (at)');
  await db.raw('CREATE INDEX post_reply ON post (course_id, reply_to) WHERE reply_to IS NOT NULL');
  await db.raw('CREATE INDEX post_statement ON post (statement_id) WHERE statement_id IS NOT NULL');
  // Their words without capitals and accents. The texts stand in the table above alone.
  await db.raw(`CREATE VIRTUAL TABLE post_words USING fts5(
     text, content = 'post', content_rowid = 'id', tokenize = 'unicode61 remove_diacritics 2')`);
  // What is taken away leaves no word behind.
  await db.raw("INSERT INTO post_words (post_words, rank) VALUES ('secure-delete', 1)");
  const drop = "INSERT INTO post_words (post_words, rowid, text) VALUES ('delete', old.id, old.text);";
  const add = 'INSERT INTO post_words (rowid, text) VALUES (new.id, new.text);';
  await db.raw(`CREATE TRIGGER post_added AFTER INSERT ON post BEGIN ${add} END`);
  await db.raw(`CREATE TRIGGER post_gone AFTER DELETE ON post BEGIN ${drop} END`);
  await db.raw(`CREATE TRIGGER post_changed AFTER UPDATE OF text ON post BEGIN ${drop} ${add} END`);

  await db.raw('CREATE TABLE survey (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE)');
  await db.raw(`CREATE TABLE survey_question (
     id INTEGER PRIMARY KEY, survey_id INTEGER NOT NULL REFERENCES survey, question TEXT NOT NULL, kind TEXT NOT NULL,
     position INTEGER NOT NULL, CHECK (kind IN ('choice', 'scale', 'text')), UNIQUE (survey_id, question))`);
  // Nobody's, where it is anonymous. ordinal tells answers apart that look alike: those of a file are counted, so that the same
  // file again adds none.
  await db.raw(`CREATE TABLE survey_answer (
     id INTEGER PRIMARY KEY, question_id INTEGER NOT NULL REFERENCES survey_question, learner_id INTEGER REFERENCES learner,
     course_id INTEGER NOT NULL REFERENCES course, asked_at INTEGER NOT NULL, answer TEXT NOT NULL,
     ordinal INTEGER NOT NULL DEFAULT 1)`);
  await db.raw('CREATE INDEX survey_answer_question ON survey_answer (question_id, course_id)');
  await db.raw('CREATE INDEX survey_answer_learner ON survey_answer (learner_id) WHERE learner_id IS NOT NULL');
  await db.raw(`CREATE INDEX survey_answer_same ON survey_answer (question_id, asked_at, course_id, answer)`);
}

export async function down(db: Knex): Promise<void> {
  for (const table of ['survey_answer', 'survey_question', 'survey', 'post_words', 'post'])
    await db.raw(`DROP TABLE ${table}`);
}
