import type { Metadata } from 'next';
import Link from 'next/link';
import { bandWord } from '@/core/drift/bands';
import type { Band } from '@/core/drift/types';
import { BAND_FILTERS, watchPage, type BandFilter } from '@/server/watch';
import { bandColor, bandTextColor } from '@/ui/gauge';
import { openDeck, type SearchParams } from '../../_deck/page-context';
import { TopBar } from '../../_deck/top-bar';
import { WatchList } from './watch-list';
import classes from './watch.module.css';

export const metadata: Metadata = { title: 'Watch' };

function bandOfFilter(filter: BandFilter): Band | null {
  return filter === 'none' ? null : (Number(filter) as Band);
}

export default async function WatchPage({ searchParams }: { searchParams: SearchParams }) {
  const deck = await openDeck(searchParams);
  const { runtime, view, params, lensKey } = deck;
  const band = BAND_FILTERS.find((filter) => filter === params.band) ?? null;
  const watch = await watchPage(runtime, view, band, Number(params.page) || 1);
  const link = (changes: Record<string, string | null>) => {
    const query = new URLSearchParams();
    for (const [name, value] of Object.entries({ in: lensKey, band, ...changes })) if (value) query.set(name, value);
    return `/watch${query.size > 0 ? `?${query}` : ''}`;
  };
  return (
    <>
      <TopBar deck={deck} />
      <h1 className={classes.hidden}>Watch</h1>
      <nav className={classes.bands} aria-label="Bands">
        {BAND_FILTERS.map((filter) => (
          <Link
            key={filter}
            href={link({ band: filter === band ? null : filter })}
            className={classes.band}
            aria-current={filter === band ? 'true' : undefined}
          >
            <span
              className={classes.swatch}
              style={{ background: filter === 'none' ? undefined : bandColor(bandOfFilter(filter)) }}
              data-none={filter === 'none' || undefined}
            />
            <strong style={{ color: bandTextColor(bandOfFilter(filter)) }}>{watch.counts[filter]}</strong>{' '}
            {bandWord(bandOfFilter(filter))}
          </Link>
        ))}
        <span className={classes.count}>
          {watch.listed} of {watch.total}
          {band !== null && (
            <>
              {' · '}
              <Link href={link({ band: null })}>clear</Link>
            </>
          )}
        </span>
      </nav>
      {watch.people.length === 0 ? (
        <div className={classes.empty}>
          {watch.total === 0 ? (
            <>
              <h2>Nobody to watch over yet</h2>
              <p>
                There is no learner with an active enrolment in what you look at. A lead brings in the outline, the
                roster and the access log under Set-up; then whoever went quiet stands here, the one who needs somebody
                most first.
              </p>
            </>
          ) : (
            <>
              <h2>Nobody is {bandWord(bandOfFilter(band!))}</h2>
              <p>
                <Link href={link({ band: null })}>Show all {watch.total}</Link>
              </p>
            </>
          )}
        </div>
      ) : (
        <WatchList
          // A new list starts with a new cursor and nothing selected.
          key={`${lensKey} ${band} ${watch.page}`}
          people={watch.people}
          offset={(watch.page - 1) * 50}
          listed={watch.listed}
          now={runtime.clock.now()}
          zone={runtime.zone}
          here={link({ page: watch.page > 1 ? String(watch.page) : null })}
        />
      )}
      {watch.pages > 1 && (
        <nav className={classes.pages} aria-label="Pages">
          {watch.page > 1 && <Link href={link({ page: String(watch.page - 1) })}>Previous 50</Link>}
          <span>
            Page {watch.page} of {watch.pages}
          </span>
          {watch.page < watch.pages && <Link href={link({ page: String(watch.page + 1) })}>Next 50</Link>}
        </nav>
      )}
    </>
  );
}
