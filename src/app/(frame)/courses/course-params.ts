/** Which course a screen about courses is about. */
import { listParams, type List, type Params } from '@/server/request/list';
import { segmentNames } from '@/server/request/view';

export interface CourseChoice {
  code: string;
  title: string;
}

/**
 * The part that the screen shows: the link's own course, else the bar's course or group's, else
 * the first there is. Null for a viewer without courses.
 */
export function courseOf(
  params: Record<string, string | undefined>,
  courses: readonly CourseChoice[],
): { course: string; group?: string; organisation?: string } | null {
  const { course: barCourse, group, organisation } = segmentNames(params.in);
  const ofGroup = group?.split('/')[0];
  const askedCourse = courses.find(({ code }) => code === params.course)?.code;
  const course = askedCourse ?? barCourse ?? ofGroup ?? courses[0]?.code;
  if (course === undefined) return null;
  return { course, group: group !== undefined && ofGroup === course ? group : undefined, organisation };
}

/**
 * What a list of one course is asked for: by its links, which leave the bar's part alone, and in all, with that part.
 */
export function paramsOfCourse<Row>(
  list: List<Row>,
  params: Record<string, string | undefined>,
  { course, group, organisation }: { course: string; group?: string; organisation?: string },
): { params: Params; part: Params } {
  const ofList: Params = { ...listParams(list, params), course };
  return {
    params: ofList,
    part: { ...ofList, group: ofList.group ?? group, organisation: ofList.organisation ?? organisation },
  };
}
