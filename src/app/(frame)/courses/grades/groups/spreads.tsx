'use client';

import { sayPercent } from '@/core/percent';
import { useState } from 'react';
import type { GroupSpread } from '@/server/grades/analysis';
import { sayCount } from '@/core/time/words';
import classes from '../../courses.module.css';

function says({ what, group, n, mean, median, low, high }: GroupSpread): string {
  const spread = low === null ? 'too few for a spread' : `middle half ${sayPercent(low, 1)} to ${sayPercent(high, 1)}`;
  return `${group}, ${what}: mean ${sayPercent(mean, 1)}, median ${sayPercent(median, 1)}, ${spread}, ${sayCount(n, 'learner')}`;
}

const WIDTH = 480;
const x = (value: number) => 6 + ((WIDTH - 12) * Math.min(100, Math.max(0, value))) / 100;

/** Each group's spread as a line, the exact values where one points. */
export function Spreads({ rows }: { rows: GroupSpread[] }) {
  const [pointed, setPointed] = useState<GroupSpread | null>(null);
  return (
    <div className={classes.spreads} onMouseLeave={() => setPointed(null)}>
      <p className={classes.said} aria-live="polite">
        {pointed ? says(pointed) : 'Point at a line for its exact values.'}
      </p>
      <table>
        <tbody>
          {rows.map((row, index) => (
            <tr
              key={`${row.what}/${row.group}`}
              data-first={row.what !== rows[index - 1]?.what || undefined}
              onMouseEnter={() => setPointed(row)}
            >
              <th scope="row">{row.what === rows[index - 1]?.what ? '' : row.what}</th>
              <td>{row.group}</td>
              <td>
                <svg
                  width={WIDTH}
                  height={18}
                  role="img"
                  aria-label={says(row)}
                  tabIndex={0}
                  onFocus={() => setPointed(row)}
                >
                  <path d={`M${x(0)} 9H${x(100)}`} stroke="var(--line)" />
                  <path d={`M${x(50)} 5v8`} stroke="var(--line)" />
                  {row.low !== null && row.high !== null && (
                    <path d={`M${x(row.low)} 9H${x(row.high)}`} stroke="var(--water)" strokeWidth={6} />
                  )}
                  {row.median !== null && <path d={`M${x(row.median)} 2v14`} stroke="var(--ink)" strokeWidth={2} />}
                  {row.mean !== null && (
                    <circle
                      cx={x(row.mean)}
                      cy={9}
                      r={3.5}
                      fill="var(--ground)"
                      stroke="var(--ink)"
                      strokeWidth={1.5}
                    />
                  )}
                </svg>
              </td>
              <td className={classes.number}>{sayPercent(row.mean, 1)}</td>
              <td className={classes.soft}>n {row.n}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
