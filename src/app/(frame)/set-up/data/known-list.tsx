import { sayList } from '@/core/time/words';
import type { WhatIsKnown } from '@/server/drift/what-is-known';
import classes from './data.module.css';

/** What is known, and what would make Lee Shore see more. */
export function KnownList({ known: { reasons, of, without, lines } }: { known: WhatIsKnown }) {
  const isAll = reasons === of;
  return (
    <details className={classes.known} open={!isAll}>
      <summary>
        Drift reads {reasons} of its {of} reasons{isAll ? '' : `: not ${sayList(without)}`}
      </summary>
      <dl>
        {lines.map(({ title, known, gives }) => (
          <div key={title}>
            <dt>{title}</dt>
            <dd>
              {known}
              {gives && <span className={classes.soft}> · {gives}</span>}
            </dd>
          </div>
        ))}
      </dl>
    </details>
  );
}
