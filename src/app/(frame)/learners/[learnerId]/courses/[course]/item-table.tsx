import { Fragment } from 'react';
import { scoreBand, type ScoreEdges } from '@/core/grades/bands';
import { sayCount, sayDay, sayInstant, sayLength } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { firstHandIn } from '@/core/work/attempt';
import { DUE_WORDS } from '@/core/work/due';
import type { ItemOfLearner } from '@/server/completion/learner-course';
import { Feedback } from '@/ui/feedback';
import { StateForm } from '@/ui/state-form';
import { ItemActivity, SettleDifference } from './item-actions';
import classes from './course-page.module.css';

interface Props {
  items: readonly ItemOfLearner[];
  learner: number;
  name: string;
  edges: ScoreEdges;
  isFull: boolean;
  mayChange: boolean;
  /** The item that one came for. */
  chosen?: string;
  zone: string;
  now: number;
}

const short = (value: number) => Math.round(value * 10) / 10;

/** Every item in outline order, by unit. */
export function ItemTable({ items, learner, name, edges, isFull, mayChange, chosen, zone, now }: Props) {
  const heads = [
    'Item',
    'State',
    'Due and handed in',
    'Score',
    ...(isFull ? ['Opened', 'Minutes'] : []),
    ...(mayChange ? [''] : []),
  ];
  return (
    <div className={classes.scroll} tabIndex={0} role="group" aria-label="Items">
      <table className={classes.items}>
        <thead>
          <tr>
            {heads.map((head) => (
              <th key={head} scope="col" aria-label={head === '' ? 'What to do' : undefined}>
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {items.map((item, index) => (
            <Fragment key={item.item.id}>
              {item.item.unit !== items[index - 1]?.item.unit && (
                <tr className={classes.unit}>
                  <th colSpan={heads.length} scope="colgroup">
                    {item.item.unit ?? 'In no unit'}
                    <span className={classes.soft}>{` · ${sayUnit(items, item.item.unit)}`}</span>
                  </th>
                </tr>
              )}
              <tr id={`item-${item.item.externalId}`} data-chosen={item.item.externalId === chosen || undefined}>
                <th scope="row">
                  {item.item.url ? (
                    <a href={item.item.url} target="_blank" rel="noreferrer noopener">
                      {item.item.title}
                    </a>
                  ) : (
                    item.item.title
                  )}
                  <small>
                    {[
                      item.item.kind,
                      item.item.required ? null : 'not required',
                      item.item.must ? 'must be done' : null,
                      item.item.isProvisional ? 'provisional' : null,
                      isFull ? item.rule : null,
                    ]
                      .filter(Boolean)
                      .join(' · ')}
                  </small>
                </th>
                <td>
                  <StateForm state={item.state.state} isOverdue={item.isOverdue} isByHand={item.state.by === 'hand'} />
                  <small>{sayState(item, zone, now)}</small>
                </td>
                <td>{sayWork(item, zone, now)}</td>
                <td>
                  <Score one={item} edges={edges} />
                </td>
                {isFull && (
                  <>
                    <td>
                      {item.opens === 0 ? <span className={classes.soft}>never</span> : sayCount(item.opens, 'time')}
                      {item.lastOpened !== null && <small>last {sayInstant(item.lastOpened, zone, now)}</small>}
                    </td>
                    <td>{item.ms > 0 ? sayLength(item.ms) : ''}</td>
                  </>
                )}
                {mayChange && (
                  <td className={classes.deeds}>
                    <ItemActivity
                      learner={learner}
                      item={item.item.id}
                      says={`${item.item.title}, for ${name}`}
                      points={item.item.points}
                      attempts={item.attempts.map(({ number, dismissed_at }) => ({
                        number,
                        isDismissed: dismissed_at !== null,
                      }))}
                    />
                  </td>
                )}
              </tr>
              <Attempts
                one={item}
                learner={learner}
                isFull={isFull}
                mayChange={mayChange}
                columns={heads.length}
                zone={zone}
                now={now}
              />
            </Fragment>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function sayUnit(items: readonly ItemOfLearner[], unit: string | null): string {
  const inUnit = items.filter(({ item, state }) => item.unit === unit && item.required && state.state !== 'exempt');
  const done = inUnit.filter(({ state }) => state.state === 'done').length;
  return inUnit.length === 0 ? 'nothing required' : `${done} of ${inUnit.length} required done`;
}

function sayState({ state, facts }: ItemOfLearner, zone: string, now: number): string {
  if (state.state === 'done') {
    const when = sayDay(dayOf(state.doneAt!, zone), dayOf(now, zone));
    return facts.override ? `${when}, by ${facts.override.by ?? 'hand'}: ${facts.override.reason}` : when;
  }
  if (state.state === 'exempt') return facts.override ? facts.override.reason : 'excused';
  return state.left.join('; ');
}

function sayWork({ dueState, dueAt, item, attempts }: ItemOfLearner, zone: string, now: number) {
  const handedIn = firstHandIn(attempts);
  if (dueAt === null && handedIn === null) return null;
  return (
    <>
      {dueAt !== null && `due ${sayInstant(dueAt, zone, now)}`}
      {dueAt !== null && item.dueAt !== null && dueAt !== item.dueAt && (
        <small>extended from {sayDay(dayOf(item.dueAt, zone), dayOf(now, zone))}</small>
      )}
      <small>
        {dueState !== null && DUE_WORDS[dueState]}
        {handedIn !== null && `${dueState === null ? 'handed in' : ''} ${sayInstant(handedIn, zone, now)}`}
      </small>
    </>
  );
}

function Score({ one, edges }: { one: ItemOfLearner; edges: ScoreEdges }) {
  const { counting, attempts, item } = one;
  if (counting === null) {
    if (attempts.length === 0 || item.points === null) return null;
    return <span className={classes.soft}>not graded</span>;
  }
  const share = 100 * counting.share;
  return (
    <>
      <strong>{short(counting.score)}</strong> of {short(counting.points)}
      <small>
        {Math.round(share)} %, {scoreBand(share, edges)}
        {attempts.length > 1 && ` · ${sayCount(attempts.length, 'attempt')}`}
      </small>
    </>
  );
}

interface AttemptsProps {
  one: ItemOfLearner;
  learner: number;
  isFull: boolean;
  mayChange: boolean;
  columns: number;
  zone: string;
  now: number;
}

/** The attempts with their feedback: all of them in the full form, what needs somebody in the short one. */
function Attempts({ one, learner, isFull, mayChange, columns, zone, now }: AttemptsProps) {
  const shown = one.attempts.filter((attempt) => isFull || attempt.other_score !== null);
  if (shown.length === 0) return null;
  const time = (at: number | null) => (at === null ? null : sayInstant(at, zone, now));
  return (
    <tr className={classes.attempts}>
      <td colSpan={columns}>
        <ul>
          {shown.map((attempt) => (
            <li key={attempt.number} data-dismissed={attempt.dismissed_at !== null || undefined}>
              {[
                `Attempt ${attempt.number}`,
                attempt.started_at !== null && `begun ${time(attempt.started_at)}`,
                attempt.submitted_at !== null ? `handed in ${time(attempt.submitted_at)}` : 'not handed in',
                attempt.score !== null &&
                  `${short(attempt.score)}${attempt.points === null ? '' : ` of ${short(attempt.points)}`}`,
                attempt.graded_at !== null &&
                  `graded ${time(attempt.graded_at)}${attempt.grader ? ` by ${attempt.grader}` : ''}`,
                attempt.source === 'hand' && 'score given here',
                attempt.dismissed_at !== null && ['dismissed', attempt.dismissed_why].filter(Boolean).join(': '),
              ]
                .filter(Boolean)
                .join(' · ')}
              {attempt.other_score !== null && (
                <SettleDifference
                  learner={learner}
                  item={one.item.id}
                  attempt={attempt.number}
                  ours={String(attempt.score)}
                  theirs={String(attempt.other_score)}
                  mayChange={mayChange}
                />
              )}
              {isFull && attempt.feedback && <Feedback text={attempt.feedback} />}
            </li>
          ))}
        </ul>
      </td>
    </tr>
  );
}
