import { ParamSelect } from '../../_list/param-select';
import type { CourseChoice } from './course-params';

interface Props {
  path: string;
  params: Record<string, string | null | undefined>;
  courses: CourseChoice[];
  course: string;
}

/** Which course is shown; it stands in the link. */
export function CourseSelect({ path, params, courses, course }: Props) {
  return (
    <ParamSelect
      label="Course"
      name="course"
      path={path}
      params={{ ...params, course }}
      choices={courses.map(({ code, title }) => ({ value: code, label: title }))}
    />
  );
}
