import Link from 'next/link';
import type { Params } from '@/server/request/list';
import { linkTo } from '../../../_list/list-link';
import classes from '../courses.module.css';

const PAGES = [
  ['/courses/grades', 'learners'],
  ['/courses/grades/item', 'one item'],
  ['/courses/grades/categories', 'categories'],
  ['/courses/grades/groups', 'groups'],
  ['/courses/grades/changes', 'history'],
] as const;

/** The ways to look at a course's grades. */
export function GradesTabs({ here, params }: { here: string; params: Params }) {
  const kept = { course: params.course, group: params.group, in: params.in, as_of: params.as_of };
  return (
    <span className={classes.choices} role="navigation" aria-label="Grades">
      {PAGES.map(([path, title]) => (
        <Link key={path} href={linkTo(path, kept)} aria-current={path === here ? 'page' : undefined}>
          {title}
        </Link>
      ))}
    </span>
  );
}
