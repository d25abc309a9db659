import { buffer } from 'node:stream/consumers';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { recalculate } from '../../drift/recalculate';
import type { Values } from '../../request/input';
import { bringIn, smallRuntime, viewerByEmail, type TestRuntime } from '../../testing';
import { readDefinition } from '../define';
import { Cancelled } from '../files';
import { openReport } from '../open';
import { READY_REPORTS } from '../ready';
import { reportPdf, type PdfAsked } from './report-pdf';

let runtime: TestRuntime;
let lead: Viewer;

const NAMES = [
  'Łukasz,Žižek-Ő',
  'Ελένη,Γεωργίου',
  'Олександр,Щербак',
  'श्रीनिवास,क्षत्रिय',
  'محمد (أبو علي),عبد الله 12',
  'שָׁלוֹם,בן־דוד',
  'สมชาย,ใจดี',
  '王,小明漢字',
  '김,민준',
  'Zoë 😀,"<b>""x""</b>"',
  `${'A'.repeat(95)},${'very long '.repeat(9)}`,
];

beforeAll(async () => {
  runtime = await smallRuntime();
  const lines = NAMES.map((name, n) => `Z${n},${name},DRY,A,2026-09-28`);
  await bringIn(runtime, 'roster', `learner_id,given_name,family_name,course,group,enrolled_on\n${lines.join('\n')}\n`);
  await bringIn(
    runtime,
    'outline',
    `course,unit,item_id,item,kind,required,due_at\nDRY,Week 2,D3,"${'A whole paragraph of a title. '.repeat(40)}",assignment,yes,2026-11-02T10:00:00Z\n`,
  );
  await recalculate(runtime);
  lead = await viewerByEmail(runtime, 'lead@staff.example');
});
afterAll(() => runtime.close());

async function paper(values: Values, asked: Partial<PdfAsked> = {}): Promise<string> {
  const { definition } = await readDefinition(runtime, lead, { name: 'Paper', for: 'staff', ...values });
  const open = await openReport(runtime, lead, definition);
  const pdf = await buffer(reportPdf(runtime, open, { title: 'Where they stand', layout: 'table', ...asked }));
  expect(pdf.subarray(0, 8).toString()).toBe('%PDF-1.7');
  expect(pdf.subarray(-6).toString()).toContain('%%EOF');
  return pdf.toString('latin1');
}

const count = (pdf: string, what: RegExp) => pdf.match(what)?.length ?? 0;
const PAGES = /\/Type \/Page\n/g;

describe('paper', () => {
  it('has a title, a language, tags and the faces that its names need, embedded', async () => {
    const pdf = await paper({ per: 'learner', columns: ['name', 'organisation'] });
    expect(pdf).toContain('(Where they stand)');
    expect(pdf).toContain('/Lang (en)');
    expect(pdf).toContain('/StructTreeRoot');
    expect(pdf).toContain('/Marked true');
    expect(count(pdf, /\/S \/TH\n/g)).toBe(2);
    expect(count(pdf, /\/S \/TR\n/g)).toBe(1 + 4 + NAMES.length);
    expect(count(pdf, /\/S \/H1\n/g)).toBe(1);
    for (const script of ['Arabic', 'Hebrew', 'Thai', 'KR', 'SC']) expect(pdf).toMatch(new RegExp(`NotoSans${script}`));
    expect(count(pdf, /\/FontFile2/g)).toBeGreaterThan(8);
  });

  it('begins a page for each learner, and says who is not in it', async () => {
    const { definition } = READY_REPORTS['one-learner-whole'];
    const pdf = await paper({ ...definition }, { layout: 'pages' });
    // Five with Wynn, who has left; long titles take some a second page.
    expect(count(pdf, /\/S \/H1\n/g)).toBe(5 + NAMES.length);
    expect(count(pdf, PAGES)).toBeGreaterThanOrEqual(5 + NAMES.length);
    expect(count(pdf, /\/S \/Figure\n/g)).toBe(6 + NAMES.length);
    const nobody = await paper({ ...definition, whose: { filter: { q: 'nobody' } } }, { layout: 'pages' });
    expect(count(nobody, PAGES)).toBe(1);
  });

  it('repeats the heads of a table on each page, and its first column where it is wider than a page', async () => {
    const columns = [
      'name',
      'course',
      'unit',
      'item',
      'kind',
      'category',
      'state',
      'left',
      'due_at',
      'due_state',
      'submitted_at',
    ];
    const pdf = await paper({ per: 'item', columns });
    const pages = count(pdf, PAGES);
    expect(pages).toBeGreaterThan(2);
    const heads = count(pdf, /\/S \/TH\n/g);
    // Two bands: the first column is in both.
    expect(heads % pages === 0 || heads > columns.length).toBe(true);
    expect(count(pdf, /\/MediaBox \[0 0 841.89 595.28\]/g)).toBe(pages);
  });

  it('ends where whoever waits for it cancels', async () => {
    const cancelled = paper(
      { per: 'learner', columns: ['name'] },
      { layout: 'pages', onLearner: async (done) => done < 2 },
    );
    await expect(cancelled).rejects.toThrow(Cancelled);
  });
});
