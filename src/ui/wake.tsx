import { sayDay, sayLength } from '@/core/time/words';
import type { WakeData } from '@/core/access/wake';

/** Minutes at which a bar is full; more is drawn as full, so one long day does not flatten the rest. */
const FULL = 120;

/** A length as a picture needs it: finer than a tenth nobody sees. */
function short(value: number): number {
  return Math.round(value * 10) / 10;
}

function summary({ minutes, active, firstDay, due, gaps, sessions }: WakeData, span: string): string {
  const days = active.length;
  const total = minutes.reduce((sum, value) => sum + value, 0);
  const last = active.at(-1) ?? -1;
  return [
    `${span} ${minutes.length} days: ${days === 0 ? 'never there' : `there on ${days}`}`,
    total > 0 ? `about ${sayLength(total * 60_000)} in all` : '',
    last >= 0 ? `last on ${sayDay(firstDay + last)}` : '',
    due.length > 0 ? `${due.length} due` : '',
    sessions.length > 0 ? saySessions(sessions) : '',
    gaps.length > 0 ? `log incomplete on ${gaps.length}` : '',
  ]
    .filter(Boolean)
    .join(', ');
}

/** "attended 3 of 5 sessions, 1 excused" */
function saySessions(sessions: WakeData['sessions']): string {
  const countOf = (outcome: string) => sessions.filter((session) => session[1] === outcome).length;
  const counted = countOf('attended') + countOf('missed');
  const excused = countOf('excused') > 0 ? `${countOf('excused')} excused` : '';
  return [counted > 0 ? `attended ${countOf('attended')} of ${counted} sessions` : '', excused]
    .filter(Boolean)
    .join(', ');
}

interface Props {
  wake: WakeData;
  width?: number;
  height?: number;
  /** Which days they are, in words before their number. */
  span?: string;
  /** Where a press on a day leads. */
  dayHref?: (day: number) => string;
}

/**
 * One learner's last days as a strip: a bar of minutes for each day, weekends on sand,
 * a notch where an item fell due, hatching where the log is incomplete; on the line a full disc for a session attended,
 * an open one for one missed, a dash for one excused.
 */
export function Wake({ wake, width = 158, height = 34, span = 'Last', dayHref }: Props) {
  const step = width / wake.minutes.length;
  const base = height - 5;
  const top = 7;
  const indexes = wake.minutes.map((_, index) => index);
  // Each sort of mark is one path: a list of fifty wakes would be thousands of shapes.
  const box = (x: number, y: number, wide: number, tall: number) =>
    `M${short(x)} ${short(y)}h${short(wide)}v${short(tall)}h${short(-wide)}z`;
  const weekends = indexes
    .filter((index) => (wake.firstWeekday + index) % 7 >= 5)
    .map((index) => box(index * step, top - 5, step, base - top + 5));
  const bars = indexes
    .filter((index) => wake.active.includes(index) || wake.minutes[index] > 0)
    .map((index) => {
      const tall = Math.max(1.5, ((base - top) * Math.min(wake.minutes[index], FULL)) / FULL);
      return box(index * step + step * 0.2, base - tall, step * 0.6, tall);
    });
  const gaps = wake.gaps.map((index) => {
    const [x, wide] = [short(index * step), short(step)];
    return `M${x} ${base - 8}l${wide} -8M${x} ${base}l${wide} -8`;
  });
  const due = wake.due.map((index) => `M${short((index + 0.5) * step - 3)} 1h6l-3 4.5z`);
  const disc = (index: number) => {
    const [x, y, r] = [short((index + 0.5) * step), base + 0.5, 2];
    return `M${short(x - r)} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0z`;
  };
  const discs = (outcome: 'attended' | 'missed') =>
    wake.sessions
      .filter((session) => session[1] === outcome)
      .map(([index]) => disc(index))
      .join('');
  const excused = wake.sessions
    .filter((session) => session[1] === 'excused')
    .map(([index]) => `M${short((index + 0.5) * step - 2)} ${base + 2.5}h4`);
  const [attended, missed] = [discs('attended'), discs('missed')];
  const picture = (
    <svg width={width} height={height} viewBox={`0 0 ${width} ${height}`} role="img" aria-label={summary(wake, span)}>
      {weekends.length > 0 && <path d={weekends.join('')} fill="var(--weekend)" />}
      {gaps.length > 0 && <path d={gaps.join('')} stroke="var(--band-none)" />}
      <path d={`M0 ${base + 0.5}h${width}`} stroke="var(--band-none)" strokeOpacity="0.5" />
      {bars.length > 0 && <path d={bars.join('')} fill="var(--water)" />}
      {attended && <path d={attended} fill="var(--ink)" />}
      {missed && <path d={missed} fill="var(--ground)" stroke="var(--ink)" strokeWidth="1" />}
      {excused.length > 0 && <path d={excused.join('')} stroke="var(--ink)" strokeWidth="1.2" />}
      {due.length > 0 && <path d={due.join('')} fill="none" stroke="var(--muted)" strokeWidth="1.1" />}
    </svg>
  );
  if (!dayHref) return picture;
  return (
    <div style={{ position: 'relative', width, height }}>
      {picture}
      {/* The same days stand in the log's own picture, which keys reach; so these are for the pointer. */}
      <div aria-hidden="true" style={{ position: 'absolute', inset: 0, display: 'flex' }}>
        {indexes.map((index) => (
          <a
            key={index}
            href={dayHref(wake.firstDay + index)}
            tabIndex={-1}
            title={sayDay(wake.firstDay + index)}
            style={{ width: step }}
          />
        ))}
      </div>
    </div>
  );
}
