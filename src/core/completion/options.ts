import type { ScaleStep, ScoreEdges } from '../grades/bands';
import type { ShownSections } from '../grades/shown';

/** What is set for a course here, and comes with no outline; what is not set is not there. */
export interface CourseOptions {
  /** Attendance as a category of its grades. */
  attendance?: { title: string; weight: number };
  bands?: ScoreEdges;
  /** What its certificate of completion says, with {{course}} and {{day}}. */
  certificate?: string;
  scale?: ScaleStep[];
  /** What its learners are shown of their page. */
  shown?: ShownSections;
}
