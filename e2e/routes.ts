/** Every page and handler, and what somebody who is no lead gets from each. */
import { readFileSync, readdirSync } from 'node:fs';
import { relative } from 'node:path';
import type { Role } from './help';

/** One handler answers for every declared list: its addresses stand in the page that is made of the declarations. */
const LISTS = '/api/v1/[...list]';
const listAddresses = () =>
  [...readFileSync('docs/lists.md', 'utf8').matchAll(/^`GET (\/api\/v1\/[^`]+)`/gm)].map((match) => match[1]);

/** Every page and handler there is, from the folders of the application. */
export function routes(): string[] {
  const root = 'src/app';
  const files = readdirSync(root, { recursive: true, withFileTypes: true });
  const all = files
    .filter((file) => file.name === 'page.tsx' || file.name === 'route.ts')
    .map((file) => `/${relative(root, file.parentPath)}`.replace('/(frame)', '').replace(/\/$/, '') || '/')
    .flatMap((route) => (route === LISTS ? listAddresses() : [route]));
  // A list that is posted to as well has a handler of its own.
  return [...new Set(all)].sort();
}

/** An address to ask for: with somebody of one's own, somebody else's, and a part that is not one's own. */
export interface Visit {
  url: (own: string, foreign: string, part: string) => string;
  status: number;
  /** Roles for whom it is another. */
  but?: Partial<Record<Role, number>>;
  /** It goes on for ever: only its beginning is read. */
  stream?: true;
}

/** What somebody who is no lead gets from each route. A route that is new must be added here. */
export const ROUTES: Record<string, Visit[]> = {
  '/': [{ url: () => '/', status: 200 }],
  '/sign-in': [{ url: () => '/sign-in', status: 200 }],
  '/metrics': [{ url: () => '/metrics', status: 404, but: { lead: 200 } }],
  '/sign-in/forgotten': [{ url: () => '/sign-in/forgotten', status: 200 }],
  '/sign-in/second': [{ url: () => '/sign-in/second', status: 200 }],
  '/sign-in/provider': [{ url: () => '/sign-in/provider', status: 200 }],
  '/sign-in/provider/back': [{ url: () => '/sign-in/provider/back?code=x&state=y', status: 403 }],
  '/lti/login': [{ url: () => '/lti/login?iss=x&login_hint=y&target_link_uri=z', status: 403 }],
  '/lti/launch': [{ url: () => '/lti/launch', status: 405 }],
  '/lti/keys': [{ url: () => '/lti/keys', status: 200 }],
  // The page says that the link is not good, as of one that never was.
  '/sign-in/password/[token]': [{ url: () => '/sign-in/password/nonsense', status: 200 }],
  '/welcome': [{ url: () => '/welcome', status: 200 }],
  '/watch': [
    { url: () => '/watch', status: 200 },
    { url: () => '/watch?page=2', status: 200 },
    { url: (_, __, part) => `/watch?in=${part}`, status: 404 },
  ],
  '/watch/names': [
    { url: () => '/watch/names', status: 200 },
    { url: () => '/watch/names?in=course:NOWHERE', status: 404 },
  ],
  '/access-log': [
    { url: () => '/access-log?fold=no', status: 200 },
    { url: () => '/access-log?staff=yes', status: 200 },
    { url: (own) => `/access-log?learner=${own}`, status: 200 },
    // The page says that there is no such learner, as it does of one that never was.
    { url: (_, foreign) => `/access-log?learner=${foreign}`, status: 200 },
    { url: (_, __, part) => `/access-log?in=${part}`, status: 404 },
  ],
  '/access-log/export': [
    { url: () => '/access-log/export?format=csv&period=7-days', status: 200 },
    { url: () => '/access-log/export?format=jsonl&period=today', status: 200 },
    { url: (_, foreign) => `/access-log/export?learner=${foreign}`, status: 404 },
  ],
  '/access-log/progress': [{ url: () => '/access-log/progress?export=x', status: 404 }],
  '/courses/progress': [
    { url: () => '/courses/progress', status: 200 },
    { url: () => '/courses/progress?sort=-behind&course_status=under_way', status: 200 },
    { url: (_, __, part) => `/courses/progress?in=${part}`, status: 404 },
  ],
  '/courses/work-due': [
    { url: () => '/courses/work-due', status: 200 },
    { url: (_, foreign) => `/courses/work-due?learner=${foreign}`, status: 404 },
    { url: (_, __, part) => `/courses/work-due?in=${part}`, status: 404 },
  ],
  '/lists/work-due/sheets': [
    { url: () => '/lists/work-due/sheets?state=any_overdue', status: 200 },
    { url: (_, foreign) => `/lists/work-due/sheets?learner=${foreign}`, status: 404 },
  ],
  '/courses/to-grade': [
    { url: () => '/courses/to-grade', status: 200 },
    { url: (_, __, part) => `/courses/to-grade?in=${part}`, status: 404 },
  ],
  '/courses/grades': [
    { url: () => '/courses/grades?sort=overdue', status: 200 },
    { url: (_, __, part) => `/courses/grades?in=${part}`, status: 404 },
  ],
  '/courses/grades/item': [{ url: () => '/courses/grades/item', status: 200 }],
  '/courses/grades/categories': [{ url: () => '/courses/grades/categories?from=nonsense', status: 200 }],
  '/courses/grades/groups': [{ url: () => '/courses/grades/groups?by=item', status: 200 }],
  '/courses/grades/changes': [
    { url: () => '/courses/grades/changes?from=2026-11-10&to=2026-11-09', status: 200 },
    { url: (_, foreign) => `/courses/grades/changes?learner=${foreign}`, status: 404 },
  ],
  '/courses/questions': [
    { url: () => '/courses/questions', status: 200 },
    { url: (_, foreign) => `/courses/questions?learner=${foreign}`, status: 200 },
  ],
  '/courses/items': [{ url: () => '/courses/items', status: 200 }],
  '/courses/settings': [{ url: () => '/courses/settings', status: 200 }],
  '/learners/[learnerId]/courses/[course]': [
    { url: (_, foreign) => `/learners/${foreign}/courses/HAT`, status: 404 },
    { url: (own) => `/learners/${own}/courses/NOWHERE`, status: 404 },
  ],
  '/learners/[learnerId]/courses/[course]/shown': [
    { url: (_, foreign) => `/learners/${foreign}/courses/HAT/shown`, status: 404 },
    { url: (own) => `/learners/${own}/courses/NOWHERE/shown`, status: 404 },
  ],
  '/reports': [
    { url: () => '/reports', status: 200 },
    { url: (_, __, part) => `/reports?in=${part}`, status: 404 },
  ],
  '/reports/choose': [
    { url: () => '/reports/choose?per=learner&cols=name,organisation,drift&status=all', status: 200 },
    { url: () => '/reports/choose?per=enrolment&cols=name,course,on_graded_work&avg=course&status=all', status: 200 },
    { url: () => '/reports/choose?report=what-was-done&per=learner&cols=name,contact_list,contacted_by', status: 200 },
    // The page says that there is nobody of that id, as of one that never was.
    { url: (_, foreign) => `/reports/choose?per=learner&cols=name&learners=${foreign}`, status: 200 },
    { url: () => '/reports/choose?report=99999', status: 404 },
    { url: (_, __, part) => `/reports/choose?in=${part}`, status: 404 },
  ],
  '/reports/file': [
    { url: () => '/reports/file?format=csv&per=learner&cols=name,organisation,email&status=all', status: 200 },
    { url: () => '/reports/file?format=json&per=session&cols=name,session,remark&status=all', status: 200 },
    { url: () => '/reports/file?format=csv&per=item&cols=name,item,feedback,left&only=scored&status=all', status: 200 },
    { url: (_, foreign) => `/reports/file?per=learner&cols=name&learners=${foreign}`, status: 422 },
  ],
  '/reports/[id]': [
    { url: () => '/reports/who-is-quiet', status: 200 },
    { url: () => '/reports/99999', status: 404 },
  ],
  '/reports/made/[id]': [{ url: () => '/reports/made/99999', status: 404 }],
  '/api/v1/learners/[learnerId]/crew': [
    { url: (own) => `/api/v1/learners/${own}/crew`, status: 200 },
    { url: (_, foreign) => `/api/v1/learners/${foreign}/crew`, status: 404 },
  ],
  '/api/v1/learners/[learnerId]/record': [
    { url: (own) => `/api/v1/learners/${own}/record`, status: 404, but: { lead: 200 } },
    { url: (own) => `/api/v1/learners/${own}/record?format=pdf`, status: 404, but: { lead: 200 } },
  ],
  '/api/v1/learners/[learnerId]/erasure': [{ url: (own) => `/api/v1/learners/${own}/erasure`, status: 405 }],
  '/api/v1/erasures': [{ url: () => '/api/v1/erasures', status: 404, but: { lead: 200 } }],
  '/api/v1/retention': [
    { url: () => '/api/v1/retention', status: 404, but: { lead: 200 } },
    { url: () => '/api/v1/retention?events=soon', status: 404, but: { lead: 422 } },
  ],
  '/api/v1/archives': [{ url: () => '/api/v1/archives', status: 404, but: { lead: 200 } }],
  '/api/v1/archives/[course]': [{ url: () => '/api/v1/archives/DRY', status: 405 }],
  '/api/v1/looks': [{ url: () => '/api/v1/looks', status: 404, but: { lead: 200 } }],
  '/less/[token]': [{ url: () => '/less/nothing', status: 404 }],
  '/api/v1/organisations': [{ url: () => '/api/v1/organisations', status: 200 }],
  '/api/v1/good-news': [
    { url: () => '/api/v1/good-news', status: 200 },
    { url: (_, foreign) => `/api/v1/good-news?learner=${foreign}`, status: 404 },
  ],
  '/api/v1/posts': [
    { url: () => '/api/v1/posts?course=HAT', status: 200 },
    { url: () => '/api/v1/posts?q=tables&staff=yes', status: 200 },
    { url: (_, foreign) => `/api/v1/posts?learner=${foreign}`, status: 404 },
  ],
  '/api/v1/posts/people': [{ url: () => '/api/v1/posts/people?course=HAT', status: 200 }],
  '/api/v1/surveys': [{ url: () => '/api/v1/surveys', status: 200 }],
  '/api/v1/surveys/[survey]': [
    { url: () => '/api/v1/surveys/Half%20way?by=organisation', status: 200 },
    { url: () => '/api/v1/surveys/None', status: 404 },
  ],
  '/api/v1/does-it-work': [{ url: () => '/api/v1/does-it-work?by=writer', status: 200 }],
  '/api/v1/flares': [
    { url: () => '/api/v1/flares', status: 200 },
    { url: (_, foreign) => `/api/v1/flares?learner=${foreign}`, status: 404 },
  ],
  '/api/v1/flares/[id]': [{ url: () => '/api/v1/flares/99999', status: 404 }],
  '/api/v1/flares/[id]/seen': [{ url: () => '/api/v1/flares/99999/seen', status: 405 }],
  '/api/v1/flares/[id]/end': [{ url: () => '/api/v1/flares/99999/end', status: 405 }],
  '/api/v1/caseloads': [{ url: () => '/api/v1/caseloads', status: 200 }],
  '/api/v1/caseloads/[id]': [{ url: () => '/api/v1/caseloads/99999', status: 404 }],
  '/api/v1/reports': [{ url: () => '/api/v1/reports', status: 200 }],
  '/api/v1/reports/columns': [{ url: () => '/api/v1/reports/columns', status: 200 }],
  '/api/v1/reports/[id]': [
    { url: () => '/api/v1/reports/who-is-quiet', status: 200 },
    { url: () => '/api/v1/reports/99999', status: 404 },
  ],
  '/api/v1/reports/[id]/rows': [
    { url: () => '/api/v1/reports/an-organisation/rows', status: 200 },
    { url: () => '/api/v1/reports/what-was-done/rows?format=csv', status: 200 },
    { url: () => '/api/v1/reports/who-is-quiet/rows?format=doc', status: 422 },
    { url: () => '/api/v1/reports/99999/rows', status: 404 },
  ],
  '/api/v1/reports/runs/[id]': [{ url: () => '/api/v1/reports/runs/99999', status: 404 }],
  '/api/v1/courses': [
    { url: () => '/api/v1/courses', status: 200 },
    { url: () => '/api/v1/courses?sort=nonsense', status: 422 },
  ],
  '/api/v1/progress': [
    { url: () => '/api/v1/progress?limit=1000&status=all', status: 200 },
    { url: () => '/api/v1/progress?format=csv', status: 200 },
  ],
  '/api/v1/work-due': [
    { url: () => '/api/v1/work-due?limit=1000', status: 200 },
    { url: (_, foreign) => `/api/v1/work-due?learner=${foreign}`, status: 404 },
    { url: () => '/api/v1/work-due?from=2026-11-10&to=2026-11-09', status: 422 },
  ],
  '/api/v1/watch': [
    { url: () => '/api/v1/watch?limit=1000', status: 200 },
    { url: () => '/api/v1/watch?part=gone', status: 422 },
    { url: () => '/api/v1/watch?course=NOWHERE', status: 404 },
  ],
  '/api/v1/trial': [
    { url: () => '/api/v1/trial', status: 404, but: { lead: 200 } },
    { url: () => '/api/v1/trial?rule=guess', status: 404, but: { lead: 422 } },
  ],
  '/api/v1/drift': [
    { url: () => '/api/v1/drift?limit=1000', status: 200 },
    { url: () => '/api/v1/drift?course=NOWHERE', status: 404 },
  ],
  '/api/v1/to-grade': [{ url: () => '/api/v1/to-grade', status: 200 }],
  '/api/v1/grades': [{ url: () => '/api/v1/grades?limit=1000&status=all', status: 200 }],
  '/api/v1/grades/changes': [
    { url: () => '/api/v1/grades/changes?limit=1000', status: 200 },
    { url: (_, foreign) => `/api/v1/grades/changes?learner=${foreign}`, status: 404 },
  ],
  '/api/v1/group-grades': [{ url: () => '/api/v1/group-grades', status: 422 }],
  '/api/v1/questions': [{ url: () => '/api/v1/questions', status: 422 }],
  '/api/v1/history': [
    { url: (own) => `/api/v1/history?learner=${own}`, status: 422 },
    { url: (own) => `/api/v1/history?learner=${own}&course=NOWHERE`, status: 404 },
  ],
  '/api/v1/learner-items': [
    { url: (_, foreign) => `/api/v1/learner-items?learner=${foreign}&course=HAT`, status: 404 },
  ],
  '/courses/now': [
    { url: () => '/courses/now', status: 200 },
    { url: (_, __, part) => `/courses/now?in=${part}`, status: 404 },
  ],
  '/courses/now/stream': [
    { url: () => '/courses/now/stream?after=1', status: 200, stream: true },
    { url: () => '/courses/now/stream?in=course:NOWHERE', status: 404 },
  ],
  '/courses/item-use': [
    { url: () => '/courses/item-use', status: 200 },
    { url: (_, __, part) => `/courses/item-use?in=${part}`, status: 404 },
  ],
  '/courses/item-use/opens': [{ url: () => '/courses/item-use/opens?course=HAT&format=csv', status: 200 }],
  '/courses/who-did': [
    { url: () => '/courses/who-did?course=HAT&kind=looked&period=7-days', status: 200 },
    { url: (_, __, part) => `/courses/who-did?kind=looked&in=${part}`, status: 404 },
  ],
  '/sessions': [
    { url: () => '/sessions', status: 200 },
    { url: () => '/sessions?week=2026-09-30', status: 200 },
    { url: (_, __, part) => `/sessions?in=${part}`, status: 404 },
  ],
  '/sessions/list': [
    { url: () => '/sessions/list', status: 200 },
    { url: (_, __, part) => `/sessions/list?in=${part}`, status: 404 },
  ],
  '/sessions/attendance': [
    { url: () => '/sessions/attendance?sort=-missed', status: 200 },
    { url: (_, __, part) => `/sessions/attendance?in=${part}`, status: 404 },
  ],
  '/sessions/marks': [{ url: () => '/sessions/marks', status: 200 }],
  '/sessions/calendars': [{ url: () => '/sessions/calendars', status: 200 }],
  '/sessions/[sessionId]': [
    { url: () => '/sessions/HAT-A-10', status: 200 },
    { url: () => '/sessions/HAT-A-01', status: 200 },
    { url: () => '/sessions/nothing', status: 404 },
  ],
  // A partner's contact looks only.
  '/sessions/[sessionId]/roll': [{ url: () => '/sessions/HAT-A-10/roll', status: 200, but: { coordinator: 404 } }],
  '/sessions/[sessionId]/roll/marks': [{ url: () => '/sessions/HAT-A-10/roll/marks', status: 405 }],
  '/sessions/[sessionId]/check-in': [
    { url: () => '/sessions/HAT-A-10/check-in', status: 200, but: { coordinator: 404 } },
  ],
  '/sessions/[sessionId]/check-in/now': [
    { url: () => '/sessions/HAT-A-10/check-in/now', status: 200, but: { coordinator: 404 } },
  ],
  '/sessions/[sessionId]/record': [{ url: () => '/sessions/HAT-A-10/record', status: 200, but: { coordinator: 404 } }],
  '/sessions/[sessionId]/record/state': [{ url: () => '/sessions/HAT-A-10/record/state?import=1', status: 404 }],
  '/sessions/[sessionId]/file': [
    { url: () => '/sessions/HAT-A-01/file?format=csv', status: 200 },
    { url: () => '/sessions/nothing/file?format=csv', status: 404 },
  ],
  // Without an account: nothing of anybody is told.
  '/in/[sessionId]': [
    { url: () => '/in/HAT-A-10', status: 200 },
    { url: () => '/in/nothing', status: 404 },
  ],
  '/calendar/[file]': [{ url: () => '/calendar/nothing.ics', status: 404 }],
  '/page/[token]': [{ url: () => '/page/nothing', status: 404 }],
  '/answer/[token]/[answer]': [{ url: () => '/answer/nothing/back', status: 404 }],
  '/certificate/[number]': [{ url: () => '/certificate/2222-2222-2222', status: 404 }],
  '/certificates/[number]': [{ url: () => '/certificates/2222-2222-2222', status: 404 }],
  '/flares': [
    { url: () => '/flares', status: 200 },
    { url: (_, __, part) => `/flares?in=${part}`, status: 404 },
  ],
  '/follow-ups/does-it-work/report': [{ url: () => '/follow-ups/does-it-work/report?by=writer', status: 200 }],
  '/follow-ups/does-it-work': [
    { url: () => '/follow-ups/does-it-work?by=writer', status: 200 },
    { url: (_, __, part) => `/follow-ups/does-it-work?in=${part}`, status: 404 },
  ],
  '/courses/posts': [
    { url: () => '/courses/posts?in=course:HAT', status: 200 },
    { url: (_, foreign) => `/courses/posts?learner=${foreign}`, status: 404 },
    { url: (_, __, part) => `/courses/posts?in=${part}`, status: 404 },
  ],
  '/courses/posts/people': [
    { url: () => '/courses/posts/people?in=course:HAT', status: 200 },
    { url: (_, __, part) => `/courses/posts/people?in=${part}`, status: 404 },
  ],
  '/courses/surveys': [
    { url: () => '/courses/surveys?by=organisation', status: 200 },
    { url: (_, __, part) => `/courses/surveys?in=${part}`, status: 404 },
  ],
  '/organisations/[name]': [
    { url: () => '/organisations/Norrick%20Shellfish%20Co-op', status: 200 },
    { url: () => '/organisations/Nowhere', status: 404 },
  ],
  '/courses': [{ url: () => '/courses', status: 200 }],
  '/account': [{ url: () => '/account', status: 200 }],
  '/organisations': [{ url: () => '/organisations', status: 200 }],
  '/caseloads': [
    { url: () => '/caseloads', status: 200 },
    { url: () => '/caseloads?in=caseload:99999', status: 404 },
  ],
  '/lists/caseloads': [{ url: () => '/lists/caseloads', status: 200 }],
  '/courses/checks': [{ url: () => '/courses/checks', status: 200 }],
  '/find': [
    { url: () => '/find?q=a', status: 200 },
    { url: (_, foreign) => `/find?q=${foreign}`, status: 200 },
    { url: () => '/find?q=a&as_of=2026-02-30', status: 422 },
  ],
  '/pulse': [{ url: () => '/pulse', status: 200 }],
  '/watch/good-news': [
    { url: () => '/watch/good-news', status: 200 },
    { url: (_, __, part) => `/watch/good-news?in=${part}`, status: 404 },
  ],
  '/watch/set-aside': [{ url: () => '/watch/set-aside', status: 200 }],
  '/learners': [
    { url: () => '/learners?limit=100', status: 200 },
    { url: (_, foreign) => `/learners?q=${foreign}`, status: 200 },
    { url: (_, __, part) => `/learners?in=${part}`, status: 404 },
  ],
  '/lists/learners/call-sheet': [
    { url: () => '/lists/learners/call-sheet', status: 200 },
    { url: (_, __, part) => `/lists/learners/call-sheet?in=${part}`, status: 404 },
  ],
  '/lists/segments': [{ url: () => '/lists/segments', status: 200 }],
  '/lists/[list]/rows': [
    { url: () => '/lists/learners/rows', status: 200 },
    { url: (_, foreign) => `/lists/learners/rows?q=${foreign}&status=all`, status: 200 },
    { url: () => '/lists/access-log/rows', status: 200 },
    { url: (_, foreign) => `/lists/access-log/rows?learner=${foreign}`, status: 404 },
    { url: () => '/lists/access-log/rows?cursor=nonsense', status: 422 },
    { url: () => '/lists/messages/rows', status: 200 },
    { url: () => '/lists/notes/rows', status: 200 },
    { url: () => '/lists/sessions/rows', status: 200 },
    { url: () => '/lists/attendance/rows', status: 200 },
    { url: () => '/lists/progress/rows', status: 200 },
    { url: () => '/lists/grades/rows', status: 200 },
    { url: () => '/lists/work-due/rows?state=any_overdue', status: 200 },
    { url: (_, foreign) => `/lists/work-due/rows?learner=${foreign}`, status: 404 },
    { url: () => '/lists/progress/rows?cursor=nonsense', status: 422 },
    { url: () => '/lists/constructor/rows', status: 404 },
  ],
  '/lists/[list]/export': [
    { url: () => '/lists/learners/export?format=csv&status=all', status: 200 },
    { url: (_, foreign) => `/lists/learners/export?q=${foreign}`, status: 200 },
    { url: () => '/lists/item-use/export?course=HAT&sort=-opens', status: 200 },
    { url: () => '/lists/messages/export', status: 200 },
    { url: () => '/lists/notes/export?format=xlsx', status: 200 },
    { url: () => '/lists/access-log/export?period=today', status: 200 },
    { url: (_, __, part) => `/lists/notes/export?in=${part}`, status: 404 },
    { url: () => '/lists/sessions/export', status: 200 },
    { url: () => '/lists/attendance/export?status=all', status: 200 },
    { url: () => '/lists/progress/export?format=xlsx', status: 200 },
    { url: () => '/lists/grades/export', status: 200 },
    { url: () => '/lists/grade-changes/export', status: 200 },
    { url: (_, foreign) => `/lists/learner-items/export?learner=${foreign}&course=HAT`, status: 404 },
    { url: () => '/lists/nothing/export', status: 404 },
  ],
  '/learners/[learnerId]/conversation': [
    { url: (own) => `/learners/${own}/conversation`, status: 200 },
    { url: (_, foreign) => `/learners/${foreign}/conversation`, status: 404 },
  ],
  '/learners/[learnerId]/everything': [
    { url: (own) => `/learners/${own}/everything`, status: 200 },
    { url: (_, foreign) => `/learners/${foreign}/everything`, status: 404 },
  ],
  '/learners/[learnerId]': [
    { url: (own) => `/learners/${own}`, status: 200 },
    { url: (_, foreign) => `/learners/${foreign}`, status: 404 },
    { url: () => '/learners/nobody', status: 404 },
  ],
  // The demo's first message is the mentor's own.
  '/write/[draftId]/report': [{ url: () => '/write/1/report?to=1', status: 404 }],
  '/write/[draftId]/recipients': [{ url: () => '/write/1/recipients', status: 404, but: { mentor: 200 } }],
  '/write/[draftId]': [{ url: () => '/write/1', status: 404, but: { mentor: 200 } }],
  '/follow-ups/messages': [{ url: () => '/follow-ups/messages', status: 200 }],
  '/set-up/data': [{ url: () => '/set-up/data', status: 404, but: { lead: 200 } }],
  '/follow-ups': [
    { url: () => '/follow-ups?whose=all', status: 200 },
    { url: () => '/follow-ups?whose=all&state=closed', status: 200 },
    { url: (_, __, part) => `/follow-ups?in=${part}`, status: 404 },
  ],
  '/follow-ups/answers': [{ url: () => '/follow-ups/answers', status: 200 }],
  '/follow-ups/notes': [
    { url: () => '/follow-ups/notes', status: 200 },
    { url: (_, foreign) => `/follow-ups/notes?q=${foreign}`, status: 200 },
  ],
  '/follow-ups/templates': [{ url: () => '/follow-ups/templates', status: 200 }],
  '/set-up/platforms': [{ url: () => '/set-up/platforms', status: 404, but: { lead: 200 } }],
  '/set-up/sources': [{ url: () => '/set-up/sources', status: 404, but: { lead: 200 } }],
  '/set-up/provisional': [{ url: () => '/set-up/provisional', status: 404, but: { lead: 200 } }],
  '/set-up/mapping': [{ url: () => '/set-up/mapping', status: 404, but: { lead: 200 } }],
  '/set-up/roster': [{ url: () => '/set-up/roster', status: 404, but: { lead: 200 } }],
  '/set-up': [{ url: () => '/set-up', status: 404, but: { lead: 200 } }],
  '/set-up/calendar': [{ url: () => '/set-up/calendar', status: 404, but: { lead: 200 } }],
  '/set-up/weights': [
    { url: () => '/set-up/weights', status: 404, but: { lead: 200 } },
    { url: () => '/set-up/weights?course=DRY', status: 404, but: { lead: 200 } },
    { url: () => '/set-up/weights?course=NOWHERE', status: 404 },
    { url: () => '/set-up/weights?fit=999999', status: 404 },
  ],
  '/set-up/trial': [{ url: () => '/set-up/trial', status: 404, but: { lead: 200 } }],
  '/set-up/trial/[runId]': [
    { url: () => '/set-up/trial/999999', status: 404 },
    { url: () => '/set-up/trial/x', status: 404 },
  ],
  '/set-up/staff': [{ url: () => '/set-up/staff', status: 404, but: { lead: 200 } }],
  '/set-up/looks': [{ url: () => '/set-up/looks', status: 404, but: { lead: 200 } }],
  '/set-up/how-long': [{ url: () => '/set-up/how-long', status: 404, but: { lead: 200 } }],
  '/set-up/erasures': [{ url: () => '/set-up/erasures', status: 404, but: { lead: 200 } }],
  '/set-up/changes': [{ url: () => '/set-up/changes', status: 404, but: { lead: 200 } }],
  '/set-up/data/upload': [{ url: () => '/set-up/data/upload', status: 405 }],
  '/api/[...path]': [{ url: () => '/api/v1/nowhere', status: 404 }],
  '/api/v1/health': [{ url: () => '/api/v1/health', status: 200 }],
  '/api/v1/imports': [{ url: () => '/api/v1/imports', status: 405 }],
  '/api/v1/imports/[id]': [{ url: () => '/api/v1/imports/1', status: 404, but: { lead: 200 } }],
  '/api/v1/imports/[id]/rejects': [{ url: () => '/api/v1/imports/1/rejects', status: 404, but: { lead: 200 } }],
  // Everybody is in it.
  '/api/v1/one-roster': [{ url: () => '/api/v1/one-roster', status: 404, but: { lead: 200 } }],
  '/api/v1/provisional': [{ url: () => '/api/v1/provisional', status: 404, but: { lead: 200 } }],
  '/api/v1/provisional/[kind]/[id]': [{ url: () => '/api/v1/provisional/learner/1', status: 405 }],
  '/xapi/about': [{ url: () => '/xapi/about', status: 200 }],
  // A session is no credential of a source.
  '/caliper': [{ url: () => '/caliper', status: 405 }],
  '/xapi/statements': [{ url: () => '/xapi/statements', status: 400 }],
  '/api/v1/access-log': [
    { url: () => '/api/v1/access-log?limit=1000', status: 200 },
    { url: () => '/api/v1/access-log?format=csv&period=today', status: 200 },
    { url: (_, foreign) => `/api/v1/access-log?learner=${foreign}`, status: 404 },
    { url: () => '/api/v1/access-log?from=2026-11-10&to=2026-11-09', status: 422 },
  ],
  '/api/v1/item-use': [{ url: () => '/api/v1/item-use', status: 200 }],
  '/api/v1/who-did': [
    { url: () => '/api/v1/who-did?kind=looked&from=2026-11-20&to=2026-11-24', status: 200 },
    { url: () => '/api/v1/who-did', status: 422 },
  ],
  '/api/v1/visits': [
    { url: (own) => `/api/v1/visits?learner=${own}`, status: 200 },
    { url: (_, foreign) => `/api/v1/visits?learner=${foreign}`, status: 404 },
  ],
  '/api/v1/sessions': [{ url: () => '/api/v1/sessions?limit=1000', status: 200 }],
  '/api/v1/sessions/[sessionId]/attendance': [
    { url: () => '/api/v1/sessions/HAT-A-01/attendance', status: 200 },
    { url: () => '/api/v1/sessions/nothing/attendance', status: 404 },
  ],
  '/api/v1/sessions/[sessionId]/presence': [{ url: () => '/api/v1/sessions/HAT-A-01/presence', status: 405 }],
  '/api/v1/attendance': [
    { url: () => '/api/v1/attendance?limit=1000', status: 200 },
    { url: () => '/api/v1/attendance?missed=x', status: 422 },
  ],
  '/api/v1/replies': [{ url: () => '/api/v1/replies', status: 405 }],
  '/api/v1/messages': [{ url: () => '/api/v1/messages', status: 200 }],
  '/api/v1/notes': [{ url: () => '/api/v1/notes', status: 200 }],
  '/api/v1/learners': [
    { url: () => '/api/v1/learners?limit=1000&status=all', status: 200 },
    { url: (_, foreign) => `/api/v1/learners?q=${foreign}`, status: 200 },
    { url: () => '/api/v1/learners?format=csv&status=all', status: 200 },
  ],
  '/api/v1/learners/[learnerId]': [
    { url: (own) => `/api/v1/learners/${own}`, status: 200 },
    { url: (_, foreign) => `/api/v1/learners/${foreign}`, status: 404 },
  ],
};
