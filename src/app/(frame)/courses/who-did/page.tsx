import type { Metadata } from 'next';
import { packRows } from '@/core/rows';
import { dayOf } from '@/core/time/zone';
import { courseItems, coursesSeen, lensChoices } from '@/server/courses/reads';
import { namesOfKind } from '@/server/courses/parts';
import { coursesInLog } from '@/server/access/reads';
import { actionWords } from '@/server/imports/reads';
import { questionOf } from '@/server/item-use/checks';
import { answerHas, type Answer } from '@/server/item-use/who-did';
import { InvalidInput, NotFound } from '@/server/request/input';
import { LogIncomplete } from '../../../_frame/incomplete';
import { linkTo } from '../../../_list/list-link';
import { openDeck, type DeckContext, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import deckClasses from '../../../_frame/deck.module.css';
import { TopBar } from '../../../_frame/top-bar';
import { courseOf } from '../course-params';
import classes from '../courses.module.css';
import { HasAnswer } from './who-did-answer';
import { HasForm } from './who-did-form';
import { Likely } from './likely';

export const metadata: Metadata = { title: 'Has / has not' };

const ASKED = ['item', 'unit', 'item_kind', 'kind', 'action', 'period', 'from', 'to'] as const;

/** People of each list that a page shows at first, and at most. */
const SHOWN = { least: 100, most: 1000 } as const;

function shownOf(rows: string | undefined): number {
  return Math.min(SHOWN.most, Math.max(SHOWN.least, Math.floor(Number(rows)) || 0));
}

async function answer(deck: DeckContext, query: string): Promise<Answer | { fault: string } | null> {
  const asked = questionOf(query);
  if (!ASKED.slice(0, 5).some((name) => asked[name])) return null;
  try {
    return await answerHas(deck.runtime, deck.viewer, asked);
  } catch (error) {
    if (error instanceof InvalidInput) return { fault: error.message };
    if (error instanceof NotFound)
      return { fault: 'it names a course, unit or item that is not there, or not yours to see' };
    throw error;
  }
}

/** For something one can do in a course, and a period: who did, and who did not. */
export default async function HasPage({ searchParams }: { searchParams: SearchParams }) {
  const deck = await openDeck(searchParams);
  const { runtime, view, params } = deck;
  const { zone } = runtime;
  const courses = await coursesSeen(runtime, deck.viewer);
  const part = courseOf(params, courses);
  const own = Object.fromEntries(ASKED.filter((name) => params[name]).map((name) => [name, params[name]]));
  const group = params.group ?? part?.group;
  const kept = { in: deck.lensKey ?? undefined, as_of: deck.asOf ?? undefined, course: part?.course, group, ...own };
  const here = linkTo('/courses/has', kept);
  const shown = shownOf(params.rows);
  const [found, items, words, parts] = await Promise.all([
    answer(deck, here.split('?')[1] ?? ''),
    part ? courseItems(runtime, deck.viewer, part.course) : [],
    coursesInLog(runtime, deck.view).then((ids) => actionWords(runtime, ids)),
    lensChoices(runtime, deck.viewer),
  ]);
  const groups = namesOfKind(parts, 'group')
    .filter(({ value }) => part && value.startsWith(`${part.course}/`))
    .map(({ value, label }) => ({ value, label: label.split(' · ')[1] ?? label }));
  return (
    <>
      <TopBar deck={deck} present />
      <div className={deckClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Has / has not</h1>
        </div>
        {part ? (
          <HasForm params={kept} courses={courses} groups={groups} items={items} actions={words} />
        ) : (
          <p>You see no course yet.</p>
        )}
        {found === null && part && <Likely deck={deck} course={part.course} kept={kept} />}
        {found && !('fault' in found) && <LogIncomplete runtime={runtime} moment={found.view} period={found.period} />}
        {found && 'fault' in found && (
          <p role="alert" className={classes.fault}>
            This cannot be answered: {found.fault}. Choose anew above.
          </p>
        )}
      </div>
      {found && !('fault' in found) && (
        <HasAnswer
          key={here}
          says={found.says}
          deed={found.deed}
          has={{ first: packRows(found.has.slice(0, shown)), count: found.has.length }}
          hasNot={{ first: packRows(found.hasNot.slice(0, shown)), count: found.hasNot.length }}
          hasNotIds={found.hasNot.map(({ id }) => id)}
          more={shown < SHOWN.most ? linkTo('/courses/has', { ...kept, rows: String(shown * 2) }) : null}
          item={found.item}
          course={courses.find(({ code }) => code === part?.course)?.title ?? ''}
          logOf={linkTo('/access-log', {
            course: group ? undefined : part?.course,
            group,
            in: kept.in,
            item: own.item,
            unit: own.unit,
            kind: own.kind,
            action: own.action,
            period: own.period,
            from: own.from,
            to: own.to,
          })}
          here={here}
          today={dayOf(view.now, zone)}
          now={view.now}
          zone={zone}
        />
      )}
    </>
  );
}
