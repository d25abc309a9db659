import Link from 'next/link';
import { linkTo } from './list-link';
import type { Params } from '@/server/request/list';

interface Props {
  title: string;
  /** What the column is sorted by. */
  sort: string;
  /** What a first press sorts by: `-adrift` for the most first. */
  first: string;
  /** What the list is sorted by where its link says nothing. */
  usual: string;
  path: string;
  params: Params;
  className: string;
}

/** A head that sorts its list, and the other way round when it is pressed again. */
export function SortHead({ title, sort, first, usual, path, params, className }: Props) {
  const asked = params.sort ?? usual;
  const isSorted = asked.replace('-', '') === sort;
  const wanted = isSorted ? (asked.startsWith('-') ? sort : `-${sort}`) : first;
  return (
    <Link className={className} href={linkTo(path, { ...params, sort: wanted })} scroll={false}>
      {title}
      {isSorted && <span aria-hidden="true">{asked.startsWith('-') ? ' ↓' : ' ↑'}</span>}
    </Link>
  );
}
