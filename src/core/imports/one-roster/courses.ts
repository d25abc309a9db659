/** Classes of OneRoster as courses and groups of ours. */

/** A class, with its course and the terms it is held in. */
export interface RosterClass {
  id: string;
  title: string;
  code: string;
  courseId: string;
  courseTitle: string;
  courseCode: string;
  /** Ids of its terms, in any order. */
  terms: readonly string[];
  /** The first day of its first term and the last of its last; empty for none. */
  begins: string;
  ends: string;
}

/** Where learners of a class are enrolled here. */
export interface OwnCourse {
  code: string;
  title: string;
  begins: string;
  ends: string;
  /** Empty for the only class of a course that bears its name. */
  group: string;
}

const plainCode = (text: string) => text.trim().replaceAll('/', '-').slice(0, 150);

/**
 * The course and group of each class. Classes of one course that are held in the same terms are its groups; held in others
 * they are a course of their own, since what is planned and due is another's. A code that two courses share is told apart
 * by their ids, a group's name by its class's.
 *
 * @returns by the class's id
 * @example one class "Hatchery Technician" of course HAT: course HAT without a group
 */
export function coursesOfClasses(classes: readonly RosterClass[]): Map<string, OwnCourse> {
  const termKey = ({ terms }: RosterClass) => [...terms].sort().join(' ');
  const runs = new Map<string, RosterClass[]>();
  for (const one of classes) {
    const key = JSON.stringify([one.courseId, termKey(one)]);
    const run = runs.get(key);
    if (run) run.push(one);
    else runs.set(key, [one]);
  }
  const codes = codesOf(
    [...runs.values()].map(([first]) => first),
    termKey,
  );
  const found = new Map<string, OwnCourse>();
  for (const run of runs.values()) {
    const [first] = run;
    const title = first.courseTitle || first.courseCode || first.title;
    const names = run.map((one) => plainCode(one.title || one.code || one.id));
    for (const [index, one] of run.entries()) {
      const isTwice = names.indexOf(names[index]) !== names.lastIndexOf(names[index]);
      const isWhole = run.length === 1 && (names[0] === plainCode(title) || names[0] === codes.get(first.id));
      found.set(one.id, {
        code: codes.get(first.id)!,
        title,
        begins: first.begins,
        ends: first.ends,
        group: isWhole ? '' : isTwice ? `${names[index]} (${one.id})` : names[index],
      });
    }
  }
  return found;
}

/** A code for each run of a course, by its first class: no two alike. */
function codesOf(firsts: readonly RosterClass[], termKey: (one: RosterClass) => string): Map<string, string> {
  const own = (one: RosterClass) => plainCode(one.courseCode || one.courseId || one.id);
  const byCode = new Map<string, RosterClass[]>();
  for (const one of firsts) byCode.set(own(one), [...(byCode.get(own(one)) ?? []), one]);
  return new Map(
    firsts.map((one) => {
      const alike = byCode.get(own(one))!;
      if (alike.length === 1) return [one.id, own(one)];
      const isOneCourse = alike.every(({ courseId }) => courseId === one.courseId);
      const more = isOneCourse
        ? termKey(one) || one.id
        : alike.filter((other) => other.courseId === one.courseId).length === 1
          ? one.courseId
          : `${one.courseId}-${termKey(one) || one.id}`;
      return [one.id, plainCode(`${own(one)}-${more}`)];
    }),
  );
}
