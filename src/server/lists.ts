/** Every list there is: what the API, the shell and files give is theirs. */
import { ACCESS_LOG } from './access/log-list';
import { PROGRESS } from './completion/progress-list';
import { HISTORY } from './completion/history';
import { DOES_IT_WORK } from './contact/does-it-work';
import { FLARES } from './contact/flares';
import { MESSAGES } from './contact/messages-list';
import { NOTES } from './contact/notes-list';
import { LEARNER_ITEMS } from './completion/learner-course';
import { COURSES } from './courses/courses-list';
import { DRIFT, WATCH } from './drift/watch-list';
import { GROUP_GRADES } from './grades/analysis';
import { CHANGES } from './grades/changes-list';
import { GRADES } from './grades/grades-list';
import { QUESTIONS } from './grades/questions-list';
import { GOOD_NEWS_LIST } from './good-news/good-news-list';
import { LEARNERS } from './people/learner-list';
import { ORGANISATIONS } from './people/organisations-list';
import { POSTERS, POSTS } from './posts/posts-list';
import { SURVEYS } from './surveys/surveys-list';
import { ITEM_USE } from './item-use/item-use';
import { ATTENDANCE } from './sessions/attendance-list';
import { SESSIONS } from './sessions/sessions-list';
import { WORK_DUE } from './work/work-due-list';
import { TO_GRADE } from './work/to-grade-list';
import { LOOKS } from './privacy/looks';
import { NotFound } from './request/input';
import type { List } from './request/list';

/** A list by its address in the API. @throws NotFound */
export function listAt(address: string): List<never> {
  const found = LISTS.find((list) => (list.api ?? list.name) === address);
  if (!found) throw new NotFound('There is nothing at this address of the API');
  return found;
}

/** A list by its name. @throws NotFound */
export function listNamed(name: string): List<never> {
  const found = LISTS.find((list) => list.name === name);
  if (!found) throw new NotFound('No such list');
  return found;
}

export const LISTS = [
  WATCH,
  DRIFT,
  LEARNERS,
  ACCESS_LOG,
  ITEM_USE,
  MESSAGES,
  NOTES,
  SESSIONS,
  ATTENDANCE,
  COURSES,
  PROGRESS,
  WORK_DUE,
  TO_GRADE,
  GRADES,
  CHANGES,
  QUESTIONS,
  GROUP_GRADES,
  HISTORY,
  LEARNER_ITEMS,
  ORGANISATIONS,
  GOOD_NEWS_LIST,
  POSTS,
  POSTERS,
  SURVEYS,
  DOES_IT_WORK,
  FLARES,
  LOOKS,
] as unknown as readonly List<never>[];
