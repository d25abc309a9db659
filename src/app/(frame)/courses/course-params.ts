/** Which course a screen about courses is about. */
import { listParams, type List, type Params } from '@/server/request/list';
import { segmentNames, type SegmentNames } from '@/server/request/segment-names';

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
): ({ course: string } & SegmentNames) | null {
  const { course: barCourse, group, organisation, caseload } = segmentNames(params.in);
  const ofGroup = group?.split('/')[0];
  const askedCourse = courses.find(({ code }) => code === params.course)?.code;
  const course = askedCourse ?? barCourse ?? ofGroup ?? courses[0]?.code;
  if (course === undefined) return null;
  return { course, group: group !== undefined && ofGroup === course ? group : undefined, organisation, caseload };
}

/**
 * What a list of one course is asked for: by its links, which leave the bar's part alone, and in all, with that part.
 */
export function paramsOfCourse<Row>(
  list: List<Row>,
  params: Record<string, string | undefined>,
  { course, group, organisation, caseload }: { course: string } & SegmentNames,
): { params: Params; part: Params } {
  const ofList: Params = { ...listParams(list, params), course };
  return {
    params: ofList,
    part: {
      ...ofList,
      group: ofList.group ?? group,
      organisation: ofList.organisation ?? organisation,
      caseload: ofList.caseload ?? caseload,
    },
  };
}
