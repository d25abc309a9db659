/** A small chart of somebody's pace: items planned by week as a line, done as a filled step. */
import type { CellTime, PaceWeek } from '@/core/reports/cells';
import { sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import type { Paper } from './pages';
import { LINE, QUIET, WATER, WATER_PALE, type TextStyle } from './typeset';

const HEIGHT = 84;
const AXIS = 22;
const SMALL: TextStyle = { size: 7, color: QUIET };

/** What the chart shows, in a sentence: for whoever hears the page read. */
function sayPace(weeks: readonly PaceWeek[]): string {
  const known = weeks.filter(({ done }) => done !== null);
  const last = known.at(-1);
  if (!last) return 'No week of the course has begun.';
  return `${last.done} of ${weeks.at(-1)!.planned} required items done; ${last.planned} were planned by ${sayDay(last.day)}.`;
}

export function drawPace(paper: Paper, weeks: readonly PaceWeek[], { now, zone }: CellTime): void {
  const today = dayOf(now, zone);
  if (weeks.length < 2) return;
  paper.room(HEIGHT + 24);
  const { doc, set } = paper;
  const most = Math.max(1, ...weeks.map(({ planned, done }) => Math.max(planned, done ?? 0)));
  const [left, right] = [paper.left + AXIS, paper.right];
  const [top, bottom] = [paper.y + 6, paper.y + HEIGHT - 12];
  const x = (index: number) => left + ((right - left) * index) / (weeks.length - 1);
  const y = (value: number) => bottom - ((bottom - top) * value) / most;
  paper.tag(
    'Figure',
    () => {
      for (const value of [0, most]) {
        doc.moveTo(left, y(value)).lineTo(right, y(value)).lineWidth(0.4).stroke(LINE);
        set.draw(set.line(String(value), SMALL), left - 4, y(value) - 5, { ...SMALL, align: 'right' });
      }
      const done = weeks.flatMap((week, index) => (week.done === null ? [] : [{ at: x(index), to: y(week.done) }]));
      if (done.length > 1) {
        doc.moveTo(done[0].at, bottom);
        for (const point of done) doc.lineTo(point.at, point.to);
        doc.lineTo(done.at(-1)!.at, bottom).fill(WATER_PALE);
        doc.moveTo(done[0].at, done[0].to);
        for (const point of done.slice(1)) doc.lineTo(point.at, point.to);
        doc.lineWidth(1.6).stroke(WATER);
      }
      doc.moveTo(x(0), y(weeks[0].planned));
      weeks.slice(1).forEach((week, index) => doc.lineTo(x(index + 1), y(week.planned)));
      doc.lineWidth(0.9).dash(3, { space: 2 }).stroke(QUIET).undash();
      for (const index of [0, weeks.length - 1]) {
        const day = set.line(sayDay(weeks[index].day, today), SMALL);
        set.draw(day, index === 0 ? left : right, bottom + 2, { ...SMALL, align: index === 0 ? 'left' : 'right' });
      }
      const key = set.line('items done (filled) and planned (dashed), by week', SMALL);
      set.draw(key, (left + right - key.width) / 2, bottom + 2, SMALL);
    },
    { alt: sayPace(weeks) },
  );
  paper.y += HEIGHT;
}
