import type { Metadata } from 'next';
import { packRows } from '@/core/rows';
import { dayOf } from '@/core/time/zone';
import { courseItems, coursesSeen, segmentChoices } from '@/server/courses/reads';
import { namesOfKind } from '@/server/courses/segments';
import { coursesInLog } from '@/server/access/reads';
import { actionWords } from '@/server/imports/reads';
import { questionOf } from '@/server/item-use/checks';
import { answerWhoDid, type Answer } from '@/server/item-use/who-did';
import { InvalidInput, NotFound } from '@/server/request/input';
import { LogIncomplete } from '../../../_frame/incomplete';
import { linkTo } from '../../../_list/list-link';
import { openFrame, type FrameContext, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import { courseOf } from '../course-params';
import classes from '../courses.module.css';
import { WhoDidAnswer } from './who-did-answer';
import { WhoDidForm } from './who-did-form';
import { Likely } from './likely';

export const metadata: Metadata = { title: 'Who did, who did not' };

const ASKED = ['item', 'unit', 'item_kind', 'kind', 'action', 'period', 'from', 'to'] as const;

/** People of each list that a page shows at first, and at most. */
const SHOWN = { least: 100, most: 1000 } as const;

function shownOf(rows: string | undefined): number {
  return Math.min(SHOWN.most, Math.max(SHOWN.least, Math.floor(Number(rows)) || 0));
}

async function answer(frame: FrameContext, query: string): Promise<Answer | { fault: string } | null> {
  const asked = questionOf(query);
  if (!ASKED.slice(0, 5).some((name) => asked[name])) return null;
  try {
    return await answerWhoDid(frame.runtime, frame.viewer, asked);
  } catch (error) {
    if (error instanceof InvalidInput) return { fault: error.message };
    if (error instanceof NotFound)
      return { fault: 'it names a course, unit or item that is not there, or not yours to see' };
    throw error;
  }
}

/** For something one can do in a course, and a period: who did, and who did not. */
export default async function WhoDidPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, view, params } = frame;
  const { zone } = runtime;
  const courses = await coursesSeen(runtime, frame.viewer);
  const part = courseOf(params, courses);
  const askedParams = Object.fromEntries(ASKED.filter((name) => params[name]).map((name) => [name, params[name]]));
  const group = params.group ?? part?.group;
  const kept = {
    in: frame.segmentKey ?? undefined,
    as_of: frame.asOf ?? undefined,
    course: part?.course,
    group,
    ...askedParams,
  };
  const here = linkTo('/courses/who-did', kept);
  const shown = shownOf(params.rows);
  const [found, items, words, parts] = await Promise.all([
    answer(frame, here.split('?')[1] ?? ''),
    part ? courseItems(runtime, frame.viewer, part.course) : [],
    coursesInLog(runtime, frame.view).then((ids) => actionWords(runtime, ids)),
    segmentChoices(runtime, frame.viewer),
  ]);
  const groups = namesOfKind(parts, 'group')
    .filter(({ value }) => part && value.startsWith(`${part.course}/`))
    .map(({ value, label }) => ({ value, label: label.split(' · ')[1] ?? label }));
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Who did, who did not</h1>
        </div>
        {part ? (
          <WhoDidForm params={kept} courses={courses} groups={groups} items={items} actions={words} />
        ) : (
          <p>You see no course yet.</p>
        )}
        {found === null && part && <Likely frame={frame} course={part.course} kept={kept} />}
        {found && !('fault' in found) && <LogIncomplete runtime={runtime} view={found.view} period={found.period} />}
        {found && 'fault' in found && (
          <p role="alert" className={classes.fault}>
            This cannot be answered: {found.fault}. Choose anew above.
          </p>
        )}
      </div>
      {found && !('fault' in found) && (
        <WhoDidAnswer
          key={here}
          says={found.says}
          deed={found.deed}
          has={{ first: packRows(found.did.slice(0, shown)), count: found.did.length }}
          didNot={{ first: packRows(found.didNot.slice(0, shown)), count: found.didNot.length }}
          didNotIds={found.didNot.map(({ id }) => id)}
          more={shown < SHOWN.most ? linkTo('/courses/who-did', { ...kept, rows: String(shown * 2) }) : null}
          item={found.item}
          course={courses.find(({ code }) => code === part?.course)?.title ?? ''}
          logOf={linkTo('/access-log', {
            course: group ? undefined : part?.course,
            group,
            in: kept.in,
            item: askedParams.item,
            unit: askedParams.unit,
            kind: askedParams.kind,
            action: askedParams.action,
            period: askedParams.period,
            from: askedParams.from,
            to: askedParams.to,
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
