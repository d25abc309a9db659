import type { StudyHours, WorkingHours } from '@/core/access/when';
import { sayLength } from '@/core/time/words';

const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
const CELL = 26;
const TALL = 16;
const LEFT = 34;
const TOP = 16;

interface Props {
  hours: StudyHours;
  working: WorkingHours;
}

/**
 * Hours of the day by days of the week: the more minutes, the stronger the colour, with working hours outlined.
 * The hours with most time are also said in words, and every cell has its figure.
 */
export function HeatStrip({ hours, working }: Props) {
  const most = Math.max(1, ...hours.flat());
  const first = working.from / 60;
  const wide = (working.to - working.from) / 60;
  const top = hours
    .flatMap((row, day) => row.map((ms, hour) => ({ day, hour, ms })))
    .filter(({ ms }) => ms > 0)
    .sort((a, b) => b.ms - a.ms)
    .slice(0, 3)
    .map(({ day, hour, ms }) => `${DAYS[day]} ${hour}:00, about ${sayLength(ms)}`);
  return (
    <svg
      width={LEFT + 24 * CELL}
      height={TOP + 7 * TALL}
      role="img"
      aria-label={top.length === 0 ? 'No time online' : `Most time: ${top.join('; ')}`}
    >
      {[0, 6, 12, 18].map((hour) => (
        <text key={hour} x={LEFT + hour * CELL} y={11} fontSize={12} fill="var(--muted)">
          {String(hour).padStart(2, '0')}
        </text>
      ))}
      {DAYS.map((name, day) => (
        <text key={name} x={0} y={TOP + day * TALL + 12} fontSize={12} fill="var(--muted)">
          {name}
        </text>
      ))}
      {hours.map((row, day) =>
        row.map((ms, hour) => (
          <rect
            key={`${day}-${hour}`}
            x={LEFT + hour * CELL}
            y={TOP + day * TALL}
            width={CELL - 1}
            height={TALL - 1}
            fill={ms === 0 ? 'var(--paper)' : 'var(--water)'}
            fillOpacity={ms === 0 ? 1 : 0.18 + (0.82 * ms) / most}
            stroke="var(--line)"
            strokeWidth={0.5}
          >
            <title>{`${DAYS[day]} ${hour}:00 to ${hour + 1}:00: ${ms === 0 ? 'nothing' : `about ${sayLength(ms)}`}`}</title>
          </rect>
        )),
      )}
      <rect
        x={LEFT + first * CELL - 0.5}
        y={TOP + working.days[0] * TALL - 0.5}
        width={wide * CELL}
        height={working.days.length * TALL}
        fill="none"
        stroke="var(--ink)"
        strokeWidth={1.5}
      />
    </svg>
  );
}
