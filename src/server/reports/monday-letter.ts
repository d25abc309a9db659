/** The Monday letter: who needs somebody this week, what one promised, who came back, what is new, and what went well. */
import { PART_WORDS } from '@/core/drift/order';
import { sayCount, sayDay } from '@/core/time/words';
import { dateOfDay, dayOf, weekday } from '@/core/time/zone';
import { findFollowUps } from '@/data/contact/follow-ups';
import type { Viewer } from '@/data/scope';
import { lastWeek } from '../contact/my-week';
import { capacityOf } from '../drift/own-watch';
import { needOrder } from '../drift/watch';
import { goodNews } from '../good-news/good-news-list';
import { explainPeople } from '../people/people';
import { openDriftView } from '../request/view';
import type { Runtime } from '../runtime';

/** People explained in a letter at most, whatever their reader can reach. */
const MOST = 60;
const PROMISES = 100;

export interface Letter {
  subject: string;
  body: string;
}

/** The letter of a week, for whoever reads it: of their own people, up to as many as they can reach. */
export async function mondayLetter(runtime: Runtime, viewer: Viewer): Promise<Letter> {
  const { db, zone } = runtime;
  const view = await openDriftView(runtime, viewer);
  const today = dayOf(view.now, zone);
  const [order, capacity, promised, week, good] = await Promise.all([
    needOrder(runtime, view),
    capacityOf(runtime, viewer),
    findFollowUps(db, view, { ownerId: viewer.staffId, state: 'open', limit: PROMISES }),
    lastWeek(runtime, viewer),
    goodNews(runtime, viewer, { from: dateOfDay(today - 7), to: dateOfDay(today), limit: String(MOST) }),
  ]);
  const now = order.filter(({ part, band }) => part === 'now' && (band ?? 0) > 0);
  const mine = now.slice(0, Math.min(capacity, MOST));
  const fresh = order.filter(
    ({ part, partBefore, band, weekAgoBand }) =>
      partBefore !== null &&
      (part === 'now'
        ? (band ?? 0) > 0 && (partBefore !== 'now' || (band ?? 0) > (weekAgoBand ?? 0))
        : part !== 'contacted' && part !== partBefore),
  );
  const people = await explainPeople(
    runtime,
    view,
    [...mine, ...fresh.slice(0, MOST)].map(({ learnerId }) => learnerId),
    { wakeDays: 1, visits: 0, contacts: 0, status: 'active' },
  );
  const byId = new Map(people.map((person) => [person.id, person]));
  const says = (id: number) => {
    const person = byId.get(id);
    if (!person) return [];
    const reasons = person.enrolments.flatMap((one) => one.reasons).sort((a, b) => b.points - a.points);
    const why = reasons.length > 0 ? ` – ${reasons[0].whole}` : '';
    return [`${person.name}${person.phone ? ` (${person.phone})` : ''}${why}`];
  };
  const due = promised.filter(({ due_day }) => due_day <= today + 6 - weekday(today));
  const sections: [string, string[]][] = [
    [
      now.length === 0
        ? 'Nobody needs somebody this week.'
        : `Needs somebody this week: ${mine.length} of ${now.length}, as many as you said you can reach`,
      mine.flatMap(({ learnerId }) => says(learnerId)),
    ],
    [
      due.length === 0 ? 'You have promised nothing for this week.' : 'What you promised for this week or before',
      due.map(({ name, due_day, reason }) => `${name}, ${sayDay(due_day, today)}${reason ? ` – ${reason}` : ''}`),
    ],
    [
      week === null
        ? 'You wrote to nobody and called nobody last week.'
        : `Last week you tried to reach ${sayCount(week.contacted, 'learner')}: ${week.answered} answered, ${week.cameBack} came back, ${week.stillOut} did not`,
      [],
    ],
    [
      fresh.length === 0 ? 'Nothing is new since last Monday.' : 'New since last Monday',
      fresh
        .slice(0, MOST)
        .flatMap(({ learnerId, part }) => says(learnerId).map((line) => `${line} [${PART_WORDS[part]}]`)),
    ],
    [
      good.total === 0 ? 'No good news of the last week.' : `Good news of the last week: ${good.total}`,
      good.rows.map(
        ({ name, courseTitle, says: deed, on }) => `${name}, ${courseTitle}, ${sayDay(on, today)} – ${deed}`,
      ),
    ],
  ];
  const body = sections
    .map(([title, lines]) =>
      lines.length === 0 ? title : `${title}\n${lines.map((line) => `  – ${line}`).join('\n')}`,
    )
    .join('\n\n');
  return {
    subject: `Your week: ${now.length === 0 ? 'nobody needs somebody' : `${sayCount(now.length, 'learner')} on the Watch`}`,
    body,
  };
}
