import { sayDay, sayLength } from '@/core/time/words';
import type { WakeData } from '@/core/access/wake';

/** Minutes at which a bar is full; more is drawn as full, so one long day does not flatten the rest. */
const FULL = 120;

function summary({ minutes, active, firstDay, due, gaps }: WakeData): string {
  const days = active.filter(Boolean).length;
  const total = minutes.reduce((sum, value) => sum + value, 0);
  const last = active.lastIndexOf(true);
  return [
    `Last ${minutes.length} days: ${days === 0 ? 'never there' : `there on ${days}`}`,
    total > 0 ? `about ${sayLength(total * 60_000)} in all` : '',
    last >= 0 ? `last on ${sayDay(firstDay + last)}` : '',
    due.length > 0 ? `${due.length} due` : '',
    gaps.length > 0 ? `log incomplete on ${gaps.length}` : '',
  ]
    .filter(Boolean)
    .join(', ');
}

interface Props {
  wake: WakeData;
  width?: number;
  height?: number;
  /** Where a press on a day leads. */
  dayHref?: (day: number) => string;
}

/**
 * One learner's last days as a strip: a bar of minutes for each day, weekends on sand,
 * a notch where an item fell due, hatching where the log is incomplete.
 */
export function Wake({ wake, width = 158, height = 34, dayHref }: Props) {
  const step = width / wake.minutes.length;
  const base = height - 5;
  const top = 7;
  const bar = (index: number) => {
    const value = wake.minutes[index];
    if (!wake.active[index] && value === 0) return null;
    const tall = Math.max(1.5, ((base - top) * Math.min(value, FULL)) / FULL);
    return (
      <rect
        key={index}
        x={index * step + step * 0.2}
        y={base - tall}
        width={step * 0.6}
        height={tall}
        fill="var(--water)"
      />
    );
  };
  const indexes = wake.minutes.map((_, index) => index);
  const picture = (
    <svg width={width} height={height} viewBox={`0 0 ${width} ${height}`} role="img" aria-label={summary(wake)}>
      {indexes
        .filter((index) => (wake.firstWeekday + index) % 7 >= 5)
        .map((index) => (
          <rect key={index} x={index * step} y={top - 5} width={step} height={base - top + 5} fill="var(--weekend)" />
        ))}
      {wake.gaps.map((index) => (
        <g key={index} stroke="var(--band-none)" strokeWidth="1">
          <path d={`M${index * step} ${base - 8}l${step} -8M${index * step} ${base}l${step} -8`} />
        </g>
      ))}
      <line x1="0" y1={base + 0.5} x2={width} y2={base + 0.5} stroke="var(--band-none)" strokeOpacity="0.5" />
      {indexes.map(bar)}
      {wake.due.map((index) => (
        <path
          key={index}
          d={`M${(index + 0.5) * step - 3} 1h6l-3 4.5z`}
          fill="none"
          stroke="var(--muted)"
          strokeWidth="1.1"
        />
      ))}
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
