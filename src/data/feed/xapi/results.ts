/** Results that statements tell of: attempts, answers and progress. */
import type { SaidResult } from '@/core/feed/xapi/result';
import type { ItemKind } from '@/core/courses/item-kinds';
import { isWork } from '@/core/work/due';
import { attemptsFromStatements, stepOf, type AttemptStatement } from '@/core/work/live';
import type { RawConnection } from '@/data/db';
import { openPosts } from '@/data/posts/take-posts';
import { openResponses } from '@/data/work/take-responses';
import { openAttempts } from '@/data/work/take-results';
import { isWithoutResults } from '@/data/work/has-results';
import { StaleWork, staleCourseWork } from '@/data/work/stale-work';

/** A statement whose learner and item are known. */
interface KnownStatement {
  id: number;
  uuid: string;
  at: number;
  learnerId: number;
  courseId: number;
  itemId: number | null;
  /** Of a question: its id. */
  part?: string;
}

interface ItemOf {
  kind: ItemKind;
  points: number | null;
}

/** Points of a score that is only a share, where the item has none. */
const PER_CENT = 100;

/** Takes results of statements inside the caller's write transaction; call `flush` before it ends. */
export class ResultImporter {
  private readonly stale: StaleWork;
  private readonly storeAttempt;
  private readonly storeResponse;
  private readonly storePost;
  private readonly sql;
  private readonly items = new Map<number, ItemOf>();
  /** Learners and items whose attempts are to be made anew, with the course. */
  private readonly touched = new Map<string, { learnerId: number; itemId: number; courseId: number }>();

  constructor(
    private readonly raw: RawConnection,
    context: { now: number; zone: string },
  ) {
    this.stale = new StaleWork(raw, context.zone);
    this.storeAttempt = openAttempts(raw, context.now);
    this.storeResponse = openResponses(raw);
    this.storePost = openPosts(raw);
    this.sql = {
      item: raw.prepare('SELECT kind, points FROM item WHERE id = ?'),
      add: raw.prepare(
        `INSERT INTO result_statement (statement_id, learner_id, item_id, at, step, score, points, duration_ms, registration)
         VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT DO NOTHING`,
      ),
      of: raw.prepare(
        `SELECT at, step, score, points, duration_ms AS durationMs, registration FROM result_statement
         WHERE learner_id = ? AND item_id = ?`,
      ),
      gone: raw.prepare(
        `DELETE FROM result_statement WHERE statement_id = ? RETURNING learner_id AS learnerId, item_id AS itemId,
           (SELECT course_id FROM item WHERE id = item_id) AS courseId`,
      ),
      postGone: raw.prepare('DELETE FROM post WHERE statement_id = ?'),
      clear: raw.prepare(`DELETE FROM attempt WHERE learner_id = ? AND item_id = ? AND source = 'live' AND number > ?`),
      empty: raw.prepare(
        `UPDATE attempt SET started_at = NULL, submitted_at = NULL, score = NULL, points = NULL, graded_at = NULL
         WHERE learner_id = ? AND item_id = ? AND source = 'live'`,
      ),
      progress: raw.prepare(
        `INSERT INTO watched (learner_id, item_id, at, share) SELECT @learnerId, @itemId, @at, @share
         WHERE @share > ifnull((SELECT max(share) FROM watched WHERE learner_id = @learnerId AND item_id = @itemId AND at <= @at), 0)
         ON CONFLICT DO UPDATE SET share = max(share, excluded.share)`,
      ),
    };
  }

  take(of: KnownStatement, said: SaidResult): void {
    const itemId = of.itemId!;
    const item = this.itemOf(itemId);
    // What is said in a discussion answers no question.
    if (said.response !== null && item.kind === 'discussion') {
      this.takePost(of, itemId, said);
      return;
    }
    if (said.response !== null && (of.part !== undefined || said.verb === 'answered')) {
      this.takeResponse(of, itemId, said);
      return;
    }
    // What is said of a part is not said of the whole.
    if (of.part !== undefined) return;
    const share =
      said.completion === true && said.progress === null && !isWork(item.kind, item.points) ? 1 : said.progress;
    if (share !== null && share > 0) {
      const { changes } = this.sql.progress.run({ learnerId: of.learnerId, itemId, at: of.at, share });
      if (changes > 0) this.stale.add(of.learnerId, of.courseId, of.at);
    }
    const step = this.stepOf(item, said);
    if (step === null) return;
    const points = said.points ?? (said.scaled === null ? null : (item.points ?? PER_CENT));
    const score = said.score ?? (said.scaled === null ? null : said.scaled * points!);
    const { id, learnerId, at } = of;
    this.sql.add.run(id, learnerId, itemId, at, step, score, points, said.durationMs, said.registration);
    this.touched.set(`${learnerId}/${itemId}`, { learnerId, itemId, courseId: of.courseId });
  }

  /** Takes away what a voided statement had said. */
  remove(statementId: number): void {
    this.sql.postGone.run(statementId);
    const gone = this.sql.gone.get(statementId) as { learnerId: number; itemId: number; courseId: number } | undefined;
    if (!gone) return;
    this.sql.empty.run(gone.learnerId, gone.itemId);
    this.touched.set(`${gone.learnerId}/${gone.itemId}`, gone);
  }

  flush(): void {
    for (const of of this.touched.values()) this.makeAttempts(of);
    this.touched.clear();
    this.stale.flush();
  }

  private itemOf(itemId: number): ItemOf {
    let item = this.items.get(itemId);
    if (!item) this.items.set(itemId, (item = this.sql.item.get(itemId) as ItemOf));
    return item;
  }

  /** What it does to an attempt: only of work there are any, and of what comes with a score. */
  private stepOf(item: ItemOf, said: SaidResult): AttemptStatement['step'] | null {
    const hasScore = said.score !== null || said.scaled !== null;
    if (!isWork(item.kind, item.points) && !hasScore) return null;
    const step = stepOf(said.verb);
    if (step !== null) return step;
    if (said.completion === true || said.success !== null) return 'ends';
    return hasScore ? 'scores' : null;
  }

  private takePost({ id, uuid, at, learnerId, courseId }: KnownStatement, itemId: number, said: SaidResult): void {
    if (said.response!.trim() === '') return;
    const of = { learnerId, staffId: null, courseId, itemId, at, statementId: id };
    this.storePost({ ...of, text: said.response!, externalId: uuid, replyTo: said.answers });
  }

  private takeResponse({ learnerId, at, part }: KnownStatement, itemId: number, said: SaidResult): void {
    const right = said.success === null ? null : Number(said.success);
    this.storeResponse({
      learnerId,
      itemId,
      attempt: this.attemptAt(learnerId, itemId, at, said.registration),
      questionId: part ?? 'question',
      question: said.name,
      answer: said.response!,
      rightAnswer: said.rightAnswer,
      score: said.score ?? said.scaled ?? right,
      points: said.points ?? (said.score === null && (said.scaled !== null || right !== null) ? 1 : null),
      answeredAt: at,
    });
  }

  /** The attempt that an answer at an instant belongs to. */
  private attemptAt(learnerId: number, itemId: number, at: number, registration: string | null): number {
    const all = this.sql.of.all(learnerId, itemId) as AttemptStatement[];
    const before = attemptsFromStatements(
      all.filter((one) => one.at <= at || (registration !== null && one.registration === registration)),
    );
    const last = before.at(-1);
    if (!last) return 1;
    // After a hand-in, answers are those of the next attempt.
    return last.submittedAt !== null && last.submittedAt < at ? before.length + 1 : before.length;
  }

  private makeAttempts({ learnerId, itemId, courseId }: { learnerId: number; itemId: number; courseId: number }): void {
    if (isWithoutResults(this.raw, itemId)) staleCourseWork(this.raw, [courseId]);
    const attempts = attemptsFromStatements(this.sql.of.all(learnerId, itemId) as AttemptStatement[]);
    this.sql.clear.run(learnerId, itemId, attempts.length);
    attempts.forEach((attempt, index) => {
      const isNew = this.storeAttempt({
        learnerId,
        itemId,
        number: index + 1,
        ...attempt,
        grader: null,
        feedback: null,
        source: 'live',
      });
      if (isNew) this.stale.add(learnerId, courseId, attempt.startedAt, attempt.submittedAt, attempt.gradedAt);
    });
    if (attempts.length === 0) this.stale.add(learnerId, courseId);
  }
}
