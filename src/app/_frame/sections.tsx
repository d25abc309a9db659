import { Tabs } from './tabs';

const FOLLOW_UPS = [
  ['/follow-ups', 'Follow-ups'],
  ['/follow-ups/messages', 'Messages'],
  ['/follow-ups/answers', 'Answers'],
  ['/follow-ups/notes', 'Notes'],
  ['/follow-ups/templates', 'Templates'],
  ['/follow-ups/does-it-work', 'Does it work?'],
] as const;

const COURSES = [
  ['/courses', 'Courses'],
  ['/courses/progress', 'Progress'],
  ['/courses/work-due', 'Work due'],
  ['/courses/to-grade', 'To grade'],
  ['/courses/grades', 'Grades'],
  ['/courses/questions', 'Questions'],
  ['/courses/posts', 'Posts'],
  ['/courses/surveys', 'Surveys'],
  ['/courses/item-use', 'Item use'],
  ['/courses/who-did', 'Who did'],
  ['/courses/checks', 'Saved checks'],
  ['/courses/now', 'Right now'],
  ['/courses/items', 'Items'],
  ['/courses/settings', 'Settings'],
  ['/organisations', 'Organisations'],
] as const;

const SESSIONS = [
  ['/sessions', 'Week'],
  ['/sessions/list', 'List'],
  ['/sessions/attendance', 'Attendance'],
  ['/sessions/marks', 'Marks'],
  ['/sessions/calendars', 'Calendars'],
] as const;

const SET_UP = [
  ['/set-up/data', 'Bring in data'],
  ['/set-up/provisional', 'Provisional'],
  ['/set-up/sources', 'Sources'],
  ['/set-up/mapping', 'Mapping'],
  ['/set-up/roster', 'Roster'],
  ['/set-up/calendar', 'Calendar'],
  ['/set-up/weights', 'Weights'],
  ['/set-up/trial', 'Trial'],
  ['/set-up/staff', 'Staff'],
  ['/set-up/platforms', 'Platforms'],
  ['/set-up/changes', 'Changes'],
  ['/set-up/looks', 'Who looked'],
  ['/set-up/erasures', 'Erasures'],
  ['/set-up/how-long', 'How long'],
] as const;

export function FollowUpTabs() {
  return <Tabs label="Follow-ups" tabs={FOLLOW_UPS} />;
}

export function CourseTabs() {
  return <Tabs label="Courses" tabs={COURSES} />;
}

export function SessionTabs() {
  return <Tabs label="Sessions" tabs={SESSIONS} />;
}

export function SetUpTabs() {
  return <Tabs label="Set-up" tabs={SET_UP} />;
}
