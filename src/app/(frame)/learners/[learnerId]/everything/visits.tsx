'use client';

import classes from '../learner.module.css';

export interface SaidVisit {
  /** "Thu 12 Nov, 18:31 to 18:40". */
  title: string;
  length: string;
  /** Time, course, item, and what was done. */
  lines: [time: string, course: string, item: string, did: string][];
}

/** Visits with their events. Drawn from rows, in the browser's part too: as elements a term would be sent twice over. */
export function Visits({ visits }: { visits: readonly SaidVisit[] }) {
  return visits.map(({ title, length, lines }) => (
    <div key={title} className={classes.whole}>
      <h3>
        {title} <span className={classes.soft}>{length}</span>
      </h3>
      <ol>
        {lines.map(([time, course, item, did], index) => (
          <li key={index}>
            <time>{time}</time> <span className={classes.soft}>{course}</span> <bdi>{item}</bdi>: {did}
          </li>
        ))}
      </ol>
    </div>
  ));
}
