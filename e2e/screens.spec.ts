import { expect, expectAccessible, signIn, test } from './help';

const SCREENS = [
  '/watch',
  '/watch/set-aside',
  '/learners',
  '/lists/learners/call-sheet',
  '/learners/L20417',
  '/learners/L20417/conversation',
  '/learners/L20417/everything',
  '/access-log',
  '/access-log?course=HAT&kind=talked&fold=no',
  '/access-log?from=2026-11-10&to=2026-11-09',
  '/courses/now?in=course:HAT',
  '/courses/item-use?course=HAT',
  '/courses/item-use?course=HAT&table=yes&by=group',
  '/courses/who-did?course=HAT&kind=talked&period=7-days',
  '/courses/checks',
  '/courses',
  '/courses/progress?course=HAT',
  '/courses/work-due',
  '/courses/to-grade',
  '/courses/grades?course=HAT',
  '/courses/grades/item?course=HAT',
  '/courses/grades/categories?course=HAT&category=Quizzes',
  '/courses/grades/groups?course=HAT&by=category',
  '/courses/grades/changes?course=HAT',
  '/courses/questions?course=HAT',
  '/courses/items?course=HAT',
  '/courses/settings?course=HAT',
  '/learners/L20834/courses/HAT?form=full',
  '/learners/L20834/courses/HAT/shown',
  '/lists/work-due/sheets?course=HAT&state=any_overdue',
  '/watch/good-news',
  '/caseloads',
  '/organisations',
  '/organisations/Norrick%20Shellfish%20Co-op',
  '/courses/posts',
  '/courses/posts/people?in=course:HAT',
  '/courses/surveys?by=group',
  '/follow-ups/does-it-work',
  '/flares',
  '/reports',
  '/reports/choose?per=enrolment&cols=name,course,progress,overdue&avg=course&in=course:HAT',
  '/sessions',
  '/sessions/list',
  '/sessions/list?roll=to_take',
  '/sessions/attendance?in=course:HAT',
  '/sessions/marks',
  '/sessions/calendars',
  '/sessions/HAT-A-10',
  '/sessions/HAT-A-09',
  '/sessions/HAT-A-09/roll',
  '/sessions/HAT-A-10/check-in',
  '/sessions/HAT-A-10/record',
  '/in/HAT-A-10',
  '/set-up/sources',
  '/set-up/platforms',
  '/follow-ups',
  '/follow-ups/messages',
  '/follow-ups/answers',
  '/follow-ups/notes',
  '/follow-ups/templates',
  '/set-up/data',
  '/set-up/provisional',
  '/set-up/mapping',
  '/set-up/roster',
  '/set-up/calendar',
  '/set-up/weights',
  '/set-up/trial',
  '/set-up/staff',
  '/account',
  '/set-up/changes',
  '/set-up/looks',
  '/set-up/erasures',
  '/set-up/how-long',
  '/watch?as_of=2026-11-10',
  '/watch?part=contacted',
  '/watch?part=away',
  '/watch?part=never',
];

test('every screen holds in the dark scheme, at 390 px and at 200 %, and axe finds nothing serious', async ({
  browser,
}) => {
  test.setTimeout(900_000);
  const walk = async (paths: readonly string[]) => {
    const context = await browser.newContext();
    const page = await context.newPage();
    await signIn(page, 'lead');
    const expectFits = async (path: string) => {
      const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
      expect([path, wide]).toEqual([path, 0]);
    };
    for (const path of paths) {
      await page.emulateMedia({ colorScheme: 'light' });
      await page.setViewportSize({ width: 390, height: 844 });
      await page.goto(path);
      await expectAccessible(page);
      await expectFits(path);
      // A window of 1280 px at 200 %.
      await page.setViewportSize({ width: 640, height: 400 });
      await expectFits(path);
      // Only colours are other in the dark.
      await page.setViewportSize({ width: 1280, height: 800 });
      await page.emulateMedia({ colorScheme: 'dark' });
      await expectAccessible(page, ['color-contrast']);
      await expectFits(path);
    }
    await context.close();
  };
  // Two at once: they only look, and axe takes its time.
  await Promise.all([0, 1].map((half) => walk(SCREENS.filter((_, index) => index % 2 === half))));
});
