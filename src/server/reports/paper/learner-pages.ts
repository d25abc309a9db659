/** A page, or some, for each learner: who, in which course, their figures, and the tables and the chart that were chosen. */
import { sayCell, type CellTable, type PaceWeek } from '@/core/reports/cells';
import { fullName } from '@/core/people/name';
import { groupBy } from '@/core/group-by';
import type { OpenReport, ReportHead } from '../open';
import type { AveragedRow } from '../rows';
import { valuesOf } from '../rows';
import { columnNamed } from '../columns';
import { drawPace } from './pace-chart';
import type { Paper } from './pages';
import { PaperTable, bandsOf } from './table';
import { lineHeight, LINE, QUIET, type TextStyle } from './typeset';

const NAME: TextStyle = { size: 17, weight: 600 };
const COURSE: TextStyle = { size: 12, weight: 600 };
const PART: TextStyle = { size: 9.5, weight: 600 };
const LABEL: TextStyle = { size: 7.5, color: QUIET };
const VALUE: TextStyle = { size: 10 };
/** Facts beside each other. */
const FACTS_IN_A_ROW = 4;
/** Lines left for a sentence by hand. */
const LINES_FOR_A_SENTENCE = 3;

/** Heads of a page's parts: facts in a few words, parts of their own, and those of a table's rows. */
function partsOf({ heads, definition }: OpenReport) {
  const perOf = (head: ReportHead) => columnNamed(head.name.split(':')[0])?.per ?? 'enrolment';
  const isOfRows = (head: ReportHead) =>
    (definition.per === 'item' || definition.per === 'session') && perOf(head) === definition.per;
  const indexed = heads.map((head, index) => ({ head, index }));
  const isPart = ({ head }: { head: ReportHead }) => head.kind === 'table' || head.kind === 'pace';
  return {
    facts: indexed.filter((one) => !isPart(one) && !isOfRows(one.head) && !IN_THE_HEADING.has(one.head.name)),
    parts: indexed.filter((one) => isPart(one) && !isOfRows(one.head)),
    rows: indexed.filter((one) => isOfRows(one.head)),
  };
}

/** What the heading of a page says anyway. */
const IN_THE_HEADING = new Set(['name', 'given_name', 'family_name', 'course_title', 'course']);

/** Writes the pages of one learner. @param sentence what the teacher wrote; lines to write on where it is empty */
export function writeLearner(paper: Paper, report: OpenReport, rows: readonly AveragedRow[], sentence: string): void {
  const { learner } = rows[0].row;
  const { facts, parts, rows: ofRows } = partsOf(report);
  paper.newPage();
  paper.begin('Sect');
  paper.text('H1', fullName(learner) || learner.learner_id, NAME, 2);
  const sayOf = (head: ReportHead, value: unknown) => sayCell(head.kind, value, report.at);
  const shows = (name: string) => report.heads.some((head) => head.name === name);
  const isByCourse = report.definition.per !== 'learner';
  const all = rows.map((row) => valuesOf(report, row));
  // What is the learner's own, and the same in every course, is said once.
  const isOwn = ({ head, index }: (typeof facts)[number]) =>
    columnNamed(head.name)?.per === 'learner' &&
    all.every((values) => sayOf(head, values[index]) === sayOf(head, all[0][index]));
  const once = isByCourse ? facts.filter(isOwn) : [];
  writeFacts(
    paper,
    once.map(({ head, index }) => [head.title, sayOf(head, all[0][index])]),
  );
  for (const [, own] of groupBy(rows, ({ row }) => row.inCourse?.enrolment.id ?? 0)) {
    const { inCourse } = own[0].row;
    const values = valuesOf(report, own[0]);
    if (isByCourse && inCourse) {
      paper.room(90);
      paper.y += 8;
      paper.text(
        'H2',
        shows('course_title') || !shows('course') ? inCourse.enrolment.course_title : inCourse.enrolment.course,
        COURSE,
        3,
      );
    }
    writeFacts(
      paper,
      facts.filter((fact) => !once.includes(fact)).map(({ head, index }) => [head.title, sayOf(head, values[index])]),
    );
    for (const { head, index } of parts) writePart(paper, head, values[index], report);
    if (ofRows.length > 0) {
      paper.y += 4;
      const columns = ofRows.map(({ head }) => head);
      for (const band of bandsOf(columns, paper.width)) {
        const cells = own.map((one) => {
          const values = valuesOf(report, one);
          return band.map((at) => values[ofRows[at].index]);
        });
        const heads = band.map((at) => columns[at]);
        const table = new PaperTable(paper, heads, report.at, cells);
        for (const row of cells) table.add(row);
        table.end();
        paper.y += 8;
      }
    }
  }
  if (report.definition.for === 'outside') writeSentence(paper, sentence);
  paper.end();
}

function writeFacts(paper: Paper, facts: readonly (readonly [string, string])[]): void {
  const width = paper.width / FACTS_IN_A_ROW;
  for (let start = 0; start < facts.length; start += FACTS_IN_A_ROW) {
    const some = facts.slice(start, start + FACTS_IN_A_ROW).map(([label, value]) => ({
      label: paper.set.lines(label, width - 10, LABEL, 3),
      value: paper.set.lines(value, width - 10, VALUE, 12),
    }));
    const labels = Math.max(...some.map(({ label }) => label.length)) * lineHeight(LABEL.size);
    const height = labels + Math.max(...some.map(({ value }) => value.length)) * lineHeight(VALUE.size) + 5;
    paper.room(height);
    some.forEach(({ label, value }, index) => {
      const x = paper.left + index * width;
      paper.tag('P', () => {
        paper.set.drawAll(label, x, paper.y, LABEL);
        paper.set.drawAll(value, x, paper.y + labels, VALUE);
      });
    });
    paper.y += height;
  }
}

function writePart(paper: Paper, head: ReportHead, value: unknown, report: OpenReport): void {
  paper.room(56);
  paper.y += 7;
  const { heads, rows } = (value ?? { heads: [], rows: [] }) as CellTable;
  if (head.kind !== 'pace' && rows.length === 0) {
    paper.text('P', `${head.title}: none`, { size: 8.5, color: QUIET });
    return;
  }
  paper.text('H3', head.title, PART, 2);
  if (head.kind === 'pace') {
    drawPace(paper, (value ?? []) as PaceWeek[], report.at);
    return;
  }
  const table = new PaperTable(paper, heads, report.at, rows);
  for (const row of rows) table.add(row);
  table.end();
}

function writeSentence(paper: Paper, sentence: string): void {
  paper.room(30 + LINES_FOR_A_SENTENCE * 18);
  paper.y += 12;
  paper.text('H3', 'From your teacher', PART, 4);
  if (sentence.trim() !== '') {
    for (const line of sentence.split(/\r?\n/)) paper.text('P', line, VALUE);
    return;
  }
  paper.artifact(() => {
    for (let line = 0; line < LINES_FOR_A_SENTENCE; line += 1) {
      paper.y += 18;
      paper.doc.moveTo(paper.left, paper.y).lineTo(paper.right, paper.y).lineWidth(0.5).stroke(LINE);
    }
  });
}
