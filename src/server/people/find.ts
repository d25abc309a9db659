/** Search from every screen: learners, courses and items. */
import { findCourses, findItems, type FoundItem } from '@/data/people/find';
import { listLearners } from '@/data/people/learners';
import { fullName } from '@/core/people/name';
import type { DriftView } from '@/data/view';
import type { Runtime } from '../runtime';

export interface Found {
  learners: { learnerId: string; name: string; says: string }[];
  courses: { code: string; title: string }[];
  items: FoundItem[];
  /** How many learners match in all. */
  total: number;
}

const LEARNERS = 7;
const OTHERS = 5;

/** What matches a text by any part, the first few of each kind; nothing for an empty text. */
export async function find({ db }: Runtime, view: DriftView, text: string): Promise<Found> {
  const q = text.trim().slice(0, 200);
  if (q === '') return { learners: [], courses: [], items: [], total: 0 };
  const page = { sort: 'name', descending: false, limit: LEARNERS, offset: 0 } as const;
  const [{ rows, total }, courses, items] = await Promise.all([
    listLearners(db, view, { q, status: 'all' }, page),
    findCourses(db, view.viewer, q, OTHERS),
    findItems(db, view.viewer, q, OTHERS),
  ]);
  const learners = rows.map((row) => ({
    learnerId: row.learner_id,
    name: fullName(row),
    says: [row.learner_id, row.organisation, row.courses.join(', ')].filter(Boolean).join(' · '),
  }));
  return { learners, courses, items, total };
}
