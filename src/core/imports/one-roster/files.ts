/** The files of a OneRoster 1.2 CSV archive (1EdTech) that are read and written here, with their columns in the standard's order. */

const BASE = ['sourcedId', 'status', 'dateLastModified'] as const;

export const ONE_ROSTER_FILES = {
  manifest: ['propertyName', 'value'],
  academicSessions: [...BASE, 'title', 'type', 'startDate', 'endDate', 'parentSourcedId', 'schoolYear'],
  categories: [...BASE, 'title', 'weight'],
  classes: [
    ...BASE,
    ...['title', 'grades', 'courseSourcedId', 'classCode', 'classType', 'location', 'schoolSourcedId'],
    ...['termSourcedIds', 'subjects', 'subjectCodes', 'periods'],
  ],
  courses: [
    ...BASE,
    'schoolYearSourcedId',
    'title',
    'courseCode',
    'grades',
    'orgSourcedId',
    'subjects',
    'subjectCodes',
  ],
  enrollments: [
    ...BASE,
    'classSourcedId',
    'schoolSourcedId',
    'userSourcedId',
    'role',
    'primary',
    'beginDate',
    'endDate',
  ],
  lineItems: [
    ...BASE,
    ...['title', 'description', 'assignDate', 'dueDate', 'classSourcedId', 'categorySourcedId'],
    ...['gradingPeriodSourcedId', 'resultValueMin', 'resultValueMax', 'schoolSourcedId'],
  ],
  orgs: [...BASE, 'name', 'type', 'identifier', 'parentSourcedId'],
  results: [
    ...BASE,
    ...['lineItemSourcedId', 'studentSourcedId', 'scoreStatus', 'score', 'scoreDate', 'comment', 'classSourcedId'],
    ...['inProgress', 'incomplete', 'late', 'missing'],
  ],
  roles: [
    ...BASE,
    ...['userSourcedId', 'roleType', 'role', 'beginDate', 'endDate', 'orgSourcedId', 'userProfileSourcedId'],
  ],
  users: [
    ...BASE,
    ...['enabledUser', 'username', 'userIds', 'givenName', 'familyName', 'middleName', 'identifier', 'email', 'sms'],
    ...['phone', 'agentSourcedIds', 'grades', 'password', 'userMasterIdentifier', 'resourceSourcedIds'],
    ...['preferredGivenName', 'preferredMiddleName', 'preferredFamilyName', 'primaryOrgSourcedId', 'pronouns'],
  ],
} as const satisfies Record<string, readonly string[]>;

export type OneRosterFile = keyof typeof ONE_ROSTER_FILES;

/** Columns of version 1.1 that say the same elsewhere: read where they are there. */
export const OLDER_COLUMNS: Partial<Record<OneRosterFile, readonly string[]>> = { users: ['orgSourcedIds', 'role'] };

/** Files without which nobody is enrolled in anything. */
const NEEDED = ['classes.csv', 'enrollments.csv', 'users.csv'];

/**
 * Where in an archive the files of OneRoster stand, if it is one: most have them at the top, some in a folder.
 *
 * @param names of its files
 * @returns what stands before each name; null for any other archive
 * @example oneRosterFolder(['out/users.csv', 'out/classes.csv', 'out/enrollments.csv']) // 'out/'
 */
export function oneRosterFolder(names: Iterable<string>): string | null {
  const there = new Set(names);
  for (const name of there) {
    if (!name.endsWith('users.csv')) continue;
    const folder = name.slice(0, -'users.csv'.length);
    if ((folder === '' || folder.endsWith('/')) && NEEDED.every((file) => there.has(folder + file))) return folder;
  }
  return null;
}
