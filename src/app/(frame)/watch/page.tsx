import type { Metadata } from 'next';
import Link from 'next/link';
import { bandWord } from '@/core/drift/bands';
import { PARTS, PART_WORDS } from '@/core/drift/order';
import type { Band } from '@/core/drift/bands';
import { sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { isLead } from '@/core/staff/rights';
import { noticeLines, noticesOf } from '@/server/drift/notices';
import { sayWhatIsMissing, whatIsKnown } from '@/server/drift/what-is-known';
import { isToBeToldOfDrift, capacityOf } from '@/server/drift/own-watch';
import {
  BAND_FILTERS,
  WATCH_PAGE,
  readWatchFilter,
  watchPage,
  type BandFilter,
  type PartCount,
} from '@/server/drift/watch';
import { bandColor, bandTextColor } from '@/ui/gauge';
import { commonReasons } from '@/core/drift/apart';
import { contactedThisWeek } from '@/server/contact/my-week';
import { linkTo } from '../../_list/list-link';
import { openFrame, type SearchParams } from '../../_frame/page-context';
import { TopBar } from '../../_frame/top-bar';
import { ModelNotice } from './model-notice';
import { NoticeLines } from './notice-lines';
import { PartActions } from './part-actions';
import { reasonsOf, sayCommon, watchLine } from './watch-line';
import { WatchList } from './watch-list';
import { WatchShoreline } from './watch-shoreline';
import classes from './watch.module.css';

export const metadata: Metadata = { title: 'Watch' };

function bandOfFilter(filter: BandFilter): Band | null {
  return filter === 'none' ? null : (Number(filter) as Band);
}

/** "2 came, 1 went this week". */
function sayMoved({ came, went }: PartCount): string {
  const moved = [came > 0 ? `${came} came` : '', went > 0 ? `${went} went` : ''].filter(Boolean).join(', ');
  return moved && ` · ${moved} this week`;
}

/** Why nobody stands in a part. */
const NOBODY = {
  now: 'Nobody needs somebody now',
  contacted: 'Nobody is being waited for',
  away: 'Nobody is away',
  never: 'Everybody has started',
} as const;

export default async function WatchPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, view, params, segmentKey } = frame;
  const filter = readWatchFilter(params);
  const { part, band, drift } = filter;
  const [watch, capacity, contacted, isChanged, notices, known] = await Promise.all([
    watchPage(runtime, view, filter, Number(params.page) || 1),
    capacityOf(runtime, frame.viewer),
    contactedThisWeek(runtime, frame.viewer),
    isToBeToldOfDrift(runtime, frame.viewer),
    noticesOf(runtime, view),
    whatIsKnown(runtime, view),
  ]);
  const stretch = drift && `${drift[0]}-${drift[1]}`;
  const link = (changes: Record<string, string | null>) =>
    linkTo('/watch', {
      in: segmentKey,
      as_of: frame.asOf,
      part: part === 'now' ? null : part,
      band,
      drift: stretch,
      ...changes,
    });
  const common = commonReasons(watch.people.map(reasonsOf));
  const isNarrowed = band !== null || drift !== null;
  const clear = <Link href={link({ band: null, drift: null })}>clear</Link>;
  return (
    <>
      <TopBar frame={frame} />
      <h1 className={classes.hidden}>Watch</h1>
      {isChanged && <ModelNotice />}
      <nav className={classes.parts} aria-label="Parts">
        {PARTS.map((one) => (
          <Link
            key={one}
            href={link({ part: one === 'now' ? null : one, band: null, drift: null })}
            className={classes.part}
            aria-current={one === part ? 'true' : undefined}
          >
            <strong>{watch.parts[one].count}</strong> {PART_WORDS[one]}
            <span className={`${classes.soft} ${classes.moved}`}>{sayMoved(watch.parts[one])}</span>
          </Link>
        ))}
      </nav>
      {part !== 'now' && watch.total > 0 && (
        <PartActions
          part={part}
          count={watch.listed}
          isLead={frame.viewer.role === 'lead' && frame.asOf === null}
          today={dayOf(runtime.clock.now(), runtime.zone)}
          here={link({})}
        />
      )}
      <nav className={classes.bands} aria-label="Bands">
        {BAND_FILTERS.map((filter) => (
          <Link
            key={filter}
            href={link({ band: filter === band ? null : filter, drift: null })}
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
            <span className={classes.moved}>
              {watch.fresh[filter] > 0 && ` · ${watch.fresh[filter]} ${filter === '0' ? 'back' : 'more'} this week`}
            </span>
          </Link>
        ))}
        <span className={classes.count}>
          {drift && `Drift ${drift[0]} to ${drift[1]} · `}
          {watch.listed} of {watch.inPart}
          {isNarrowed && <> · {clear}</>}
          {' · '}
          <Link href="/watch/set-aside">set aside</Link>
          {' · '}
          <Link href={linkTo('/watch/good-news', { in: segmentKey })}>good news</Link>
        </span>
      </nav>
      {watch.changedOn !== null && (
        <p className={classes.changed}>
          What the Watch goes by was changed on {sayDay(watch.changedOn)}: earlier days stay as they were read, and some
          of what moved this week did so for that.
        </p>
      )}
      {watch.total > 0 && (
        <NoticeLines lines={noticeLines(notices)} missing={sayWhatIsMissing(known)} isLead={isLead(frame.viewer)} />
      )}
      {watch.inPart > 0 && (
        <WatchShoreline
          people={watch.shoreline}
          edges={watch.edges}
          segmentKey={segmentKey}
          asOf={frame.asOf}
          part={part}
          drift={drift}
        />
      )}
      {watch.people.length === 0 ? (
        <div className={classes.empty}>
          {watch.total === 0 ? (
            <>
              <h2>Nobody to watch over yet</h2>
              <p>
                There is no learner with an active enrolment that has begun in what you look at. A lead brings in the
                outline, the roster and the access log under Set-up; then whoever went quiet stands here, the one who
                needs somebody most first.
              </p>
            </>
          ) : watch.inPart === 0 ? (
            <h2>{NOBODY[part]}</h2>
          ) : (
            <>
              <h2>Nobody is {band === null ? 'in this stretch of drift' : bandWord(bandOfFilter(band))}</h2>
              <p>
                <Link href={link({ band: null, drift: null })}>Show all {watch.inPart}</Link>
              </p>
            </>
          )}
        </div>
      ) : (
        <WatchList
          // A new list starts with a new cursor and nothing selected.
          key={`${segmentKey} ${frame.asOf} ${part} ${band} ${stretch} ${watch.page}`}
          people={watch.people.map((person) => watchLine(person, watch.places.get(person.id)!, common))}
          common={sayCommon(common)}
          first={watch.first}
          asOf={frame.asOf}
          offset={(watch.page - 1) * WATCH_PAGE}
          listed={watch.listed}
          week={part !== 'now' || isNarrowed || frame.asOf !== null ? null : { capacity, contacted }}
          today={dayOf(runtime.clock.now(), runtime.zone)}
          now={view.now}
          zone={runtime.zone}
          here={link({ page: watch.page > 1 ? String(watch.page) : null })}
        />
      )}
      {watch.pages > 1 && (
        <nav className={classes.pages} aria-label="Pages">
          {watch.page > 1 && <Link href={link({ page: String(watch.page - 1) })}>Previous {WATCH_PAGE}</Link>}
          <span>
            Page {watch.page} of {watch.pages}
          </span>
          {watch.page < watch.pages && <Link href={link({ page: String(watch.page + 1) })}>Next {WATCH_PAGE}</Link>}
        </nav>
      )}
    </>
  );
}
