import { writeFileSync } from 'node:fs';
import { buffer, text } from 'node:stream/consumers';
import { it } from 'vitest';
import { bringIn, smallRuntime, viewerByEmail } from '../testing';
import { recalculate } from '../drift/recalculate';
import { readDefinition } from './define';
import { openReport } from './open';
import { reportFile } from './files';
import { reportPdf } from './paper/report-pdf';
import { COLUMNS } from './columns';
it('x', async () => {
  const runtime = await smallRuntime([
    '2026-11-20T10:00:00Z,L1,DRY,D1,opened',
    '2026-11-21T10:00:00Z,L2,DRY,D1,opened',
  ]);
  const names = [
    'Łukasz,Žižek-Ő',
    'Nguyễn,Thị Ánh',
    'Ελένη,Γεωργίου',
    'Олександр,Щербак',
    'श्रीनिवास,क्षत्रिय',
    'محمد (أبو علي),عبد الله 12',
    'שָׁלוֹם,בן־דוד',
    'สมชาย,ใจดี',
    '王,小明漢字',
    'さくら,山田',
    '김,민준',
    'Zoë 😀,O’Brien & <b>"x"</b>',
    '"' + 'A'.repeat(90) + '","' + 'Very long name '.repeat(8) + '"',
  ];
  await bringIn(
    runtime,
    'roster',
    'learner_id,given_name,family_name,course,group,enrolled_on,status\n' +
      names.map((n, i) => `Z${i},${n},DRY,A,2026-09-28,active`).join('\n') +
      '\n',
  );
  await bringIn(
    runtime,
    'results',
    'learner_id,course,item_id,attempt,submitted_at,score,points\n' +
      names.map((_, i) => `Z${i},DRY,D2,1,2026-11-0${1 + (i % 8)}T10:00:00Z,${4 + (i % 6)},10`).join('\n') +
      '\n',
  );
  await recalculate(runtime);
  const lead = await viewerByEmail(runtime, 'lead@staff.example');
  for (const per of ['learner', 'enrolment', 'item', 'session'] as const) {
    const columns = COLUMNS.filter(
      (c) => c.per === per || c.per === 'learner' || (c.per === 'enrolment' && per !== 'learner'),
    ).map((c) => c.name);
    const { definition } = await readDefinition(runtime, lead, {
      name: 'x',
      per,
      columns,
      items: ['D2'],
      for: 'staff',
      averages: 'course',
    });
    const open = await openReport(runtime, lead, definition, true);
    writeFileSync(`/tmp/w/r-${per}.csv`, await text(reportFile(runtime, open, 'csv')));
    writeFileSync(`/tmp/w/r-${per}.json`, await text(reportFile(runtime, open, 'json')));
    writeFileSync(`/tmp/w/r-${per}.xlsx`, await buffer(reportFile(runtime, open, 'xlsx', { layout: 'pages' })));
    writeFileSync(
      `/tmp/w/r-${per}.pdf`,
      await buffer(reportPdf(runtime, open, { title: 'Everything', layout: 'table' })),
    );
  }
  const { definition } = await readDefinition(runtime, lead, {
    name: 'x',
    per: 'enrolment',
    columns: [
      'name',
      'organisation',
      'course_title',
      'course_status',
      'progress',
      'on_graded_work',
      'attendance_rate',
      'pace',
      'work_due_list',
      'score_list',
      'left_list',
      'session_list',
      'done_list',
    ],
    for: 'outside',
    averages: 'course',
  });
  const open = await openReport(runtime, lead, definition, true);
  writeFileSync(
    '/tmp/w/pages.pdf',
    await buffer(reportPdf(runtime, open, { title: 'One learner whole', layout: 'pages' })),
  );
  const t = await readDefinition(runtime, lead, {
    name: 'x',
    per: 'enrolment',
    columns: ['name', 'organisation', 'course', 'group', 'progress', 'on_graded_work', 'last_access'],
    for: 'staff',
  });
  writeFileSync(
    '/tmp/w/table.pdf',
    await buffer(
      reportPdf(runtime, await openReport(runtime, lead, t.definition, true), {
        title: 'Where everybody stands',
        layout: 'table',
      }),
    ),
  );
  await runtime.close();
}, 60000);
