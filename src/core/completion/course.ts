/** A course and what is known of a learner in it, as completion, work and grades need them. */
import type { ItemKind, Stage } from '../courses/item-kinds';
import type { Category } from '../grades/means';
import type { CourseOptions } from './options';
import type { ItemFacts, RuledItem } from './state';

/** An item of a course, as completion, work and grades need it. */
export interface CourseItem extends RuledItem {
  id: number;
  externalId: string;
  title: string;
  kind: ItemKind;
  unitId: number | null;
  unit: string | null;
  required: boolean;
  opensAt: number | null;
  dueAt: number | null;
  category: string | null;
  must: boolean;
  stage: Stage | null;
  url: string | null;
  /** Has no outline told of it yet? */
  isProvisional?: boolean;
  /** Do results tell of it? Where they tell nothing, its hand-ins are those of the log. */
  hasResults: boolean;
}

/** A course with its items, in outline order. */
export interface Course {
  id: number;
  code: string;
  title: string;
  /** Days; null where the course has none. */
  start: number | null;
  end: number | null;
  /** In per cent. */
  passMark: number | null;
  items: readonly CourseItem[];
  categories: readonly Category[];
  options: CourseOptions;
}

/** An extension of one learner for one item. */
export interface Extension {
  /** Null for an excusal alone. */
  dueAt: number | null;
  isExcused: boolean;
  reason: string;
  at: number;
  by: string | null;
}

/** All that is known of a learner in a course, by the item's id. */
export interface LearnerFacts {
  items: ReadonlyMap<number, ItemFacts>;
  extensions: ReadonlyMap<number, Extension>;
  /** Hand-ins that the log tells of, the first of each item: they count where results tell nothing of the item. */
  logged: ReadonlyMap<number, number>;
  /** 0–1; null while nothing is counted. */
  attendanceRate: number | null;
}
