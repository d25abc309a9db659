import { redirect } from 'next/navigation';
import { linkTo } from '../../_list/list-link';
import { oneOfEach, type SearchParams } from '../../_frame/page-context';

/** The first of these screens. */
export default async function FirstPage({ searchParams }: { searchParams: SearchParams }) {
  redirect(linkTo('/set-up/data', await oneOfEach(searchParams)));
}
