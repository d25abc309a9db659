import { Table, TableTbody, TableTd, TableTh, TableThead, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import { daysQuiet } from '@/core/access/last-access';
import { bandWord } from '@/core/drift/bands';
import { sayInstant, sayLength } from '@/core/time/words';
import type { LearnerRow } from '@/data/learners';
import { fullName } from '@/data/staff';
import { InvalidInput } from '@/server/input';
import { countLearners, learnerList } from '@/server/learner-list';
import type { Runtime } from '@/server/runtime';
import { Gauge } from '@/ui/gauge';
import { linkTo } from '../../_deck/list-link';
import { openDeck, orNotFound, type DeckContext, type SearchParams } from '../../_deck/page-context';
import deckClasses from '../../_deck/deck.module.css';
import { TopBar } from '../../_deck/top-bar';
import { Filters } from './filters';
import { SIZES, apiParams, listParams, type ListParams } from './list-params';
import classes from './learners.module.css';

export const metadata: Metadata = { title: 'Learners' };

const COLUMNS = [
  { sort: 'name', title: 'Learner' },
  { sort: 'organisation', title: 'Organisation' },
  { sort: null, title: 'Courses' },
  { sort: 'drift', title: 'Drift' },
  { sort: 'last_access', title: 'Last access' },
  { sort: 'days_quiet', title: 'Days quiet' },
  { sort: 'minutes_online', title: 'Time online' },
  { sort: null, title: 'Phone and e-mail' },
] as const;

/** The list, or what is wrong with the link. */
async function readList(deck: DeckContext, params: ListParams, page: number) {
  const limit = SIZES.find((size) => size === params.limit) ?? '25';
  const cursor = Buffer.from(String((page - 1) * Number(limit))).toString('base64url');
  try {
    return { ...(await learnerList(deck.runtime, deck.viewer, { ...apiParams(params), limit, cursor })), fault: null };
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    return { rows: [], total: 0, fault: error.errors.map((one) => `${one.field} ${one.message}`).join('; ') };
  }
}

export default async function LearnersPage({ searchParams }: { searchParams: SearchParams }) {
  const deck = await openDeck(searchParams);
  const params = listParams(deck.params);
  const page = Math.max(1, Math.floor(Number(deck.params.page)) || 1);
  const [list, whole] = await Promise.all([
    orNotFound(readList(deck, params, page)),
    countLearners(deck.runtime, deck.viewer),
  ]);
  const size = Number(SIZES.find((one) => one === params.limit) ?? 25);
  const link = (changes: Record<string, string | null>) => linkTo('/learners', { ...params, ...changes });
  const file = (format: string) => linkTo('/api/v1/learners', { ...apiParams(params), format, limit: null });
  const descending = params.sort?.startsWith('-') ?? false;
  const sorted = params.sort?.replace('-', '') ?? 'name';
  return (
    <>
      <TopBar deck={deck} />
      <div className={`${deckClasses.page} ${classes.page}`}>
        <div className={classes.head}>
          <h1>Learners</h1>
          <span className={classes.soft}>
            {list.total} of {whole}
          </span>
          <span className={classes.actions}>
            <a href={file('csv')}>CSV</a>
            <a href={file('xlsx')}>XLSX</a>
            <Link href={linkTo('/learners/call-sheet', { ...params, limit: null })}>Call sheet</Link>
          </span>
        </div>
        <Filters params={params} />
        {list.fault && (
          <p role="alert" className={classes.fault}>
            This link asks for something the list does not know: {list.fault}.
          </p>
        )}
        {list.rows.length === 0 && !list.fault ? (
          <p>
            {whole === 0
              ? 'Nobody is enrolled yet. A lead brings in the roster under Set-up.'
              : 'Nobody matches. Take a filter away, or look at a wider part of the caseload.'}
          </p>
        ) : (
          <div className={classes.scroll} tabIndex={0} role="group" aria-label="Learners">
            <Table stickyHeader fz={13} verticalSpacing={5}>
              <TableThead>
                <TableTr>
                  {COLUMNS.map(({ sort, title }) => (
                    <TableTh
                      key={title}
                      aria-sort={sort === sorted ? (descending ? 'descending' : 'ascending') : undefined}
                      className={sort === null || sort === 'organisation' ? classes.wide : undefined}
                    >
                      {sort === null ? (
                        title
                      ) : (
                        <Link
                          className={classes.sort}
                          href={link({ sort: sort === sorted && !descending ? `-${sort}` : sort })}
                        >
                          {title}
                          {sort === sorted && <span aria-hidden="true">{descending ? ' ↓' : ' ↑'}</span>}
                        </Link>
                      )}
                    </TableTh>
                  ))}
                </TableTr>
              </TableThead>
              <TableTbody>
                {list.rows.map((row) => (
                  <Learner key={row.id} row={row} runtime={deck.runtime} />
                ))}
              </TableTbody>
            </Table>
          </div>
        )}
        <nav className={classes.pages} aria-label="Pages">
          {page > 1 && <Link href={link({ page: String(page - 1) })}>Previous</Link>}
          {list.total > size && (
            <span>
              {(page - 1) * size + 1} to {Math.min(page * size, list.total)} of {list.total}
            </span>
          )}
          {page * size < list.total && <Link href={link({ page: String(page + 1) })}>Next</Link>}
          <span className={classes.sizes}>
            Rows:{' '}
            {SIZES.map((one) => (
              <Link key={one} href={link({ limit: one })} aria-current={Number(one) === size ? 'true' : undefined}>
                {one}
              </Link>
            ))}
          </span>
        </nav>
      </div>
    </>
  );
}

function Learner({ row, runtime }: { row: LearnerRow; runtime: Runtime }) {
  const { clock, zone } = runtime;
  const now = clock.now();
  return (
    <TableTr>
      <TableTd>
        <Link href={`/learners/${encodeURIComponent(row.learner_id)}`}>
          <bdi>{fullName(row)}</bdi>
        </Link>
        <div className={classes.soft}>{row.learner_id}</div>
      </TableTd>
      <TableTd className={classes.wide}>
        {row.organisation ?? <span className={classes.soft}>on their own</span>}
      </TableTd>
      <TableTd className={classes.wide}>{row.courses.join(', ')}</TableTd>
      <TableTd>
        <span className={classes.drift}>
          <Gauge score={row.score} band={row.band} height={22} />
          {row.score === null ? 'no reading' : `${Math.round(row.score)} ${bandWord(row.band)}`}
        </span>
      </TableTd>
      <TableTd>{row.last_at === null ? 'never' : sayInstant(row.last_at, zone, now)}</TableTd>
      <TableTd>{daysQuiet(row.last_at, now, zone) ?? '–'}</TableTd>
      <TableTd>{row.ms === 0 ? '–' : `about ${sayLength(row.ms)}`}</TableTd>
      <TableTd className={classes.wide}>
        {row.phone ? (
          <a href={`tel:${row.phone.replace(/[^\d+]/g, '')}`}>{row.phone}</a>
        ) : (
          <span className={classes.soft}>no phone</span>
        )}
        <div className={classes.soft}>{row.email ?? 'no e-mail'}</div>
      </TableTd>
    </TableTr>
  );
}
