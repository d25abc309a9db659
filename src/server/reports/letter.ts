/** A report that goes to each learner of it: one mail each, with their own page as a PDF. */
import { buffer } from 'node:stream/consumers';
import type { ReportDefinition } from '@/core/reports/definition';
import type { Viewer } from '@/data/scope';
import { staffById, viewerOf } from '@/data/staff/staff';
import type { Receiver } from '@/core/contact/recipient';
import { sentenceFor } from '../contact/recipients';
import { openDraft, startDraft } from '../contact/write';
import { InvalidInput, NotFound } from '../request/input';
import type { Params } from '../request/list';
import { openDriftView } from '../request/view';
import type { Runtime } from '../runtime';
import { openReport } from './open';
import { definitionOfLink } from './page';
import { reportPdf } from './paper/report-pdf';
import { fileName } from '../request/file-name';

/** What the page is called that a learner gets: what staff call the report may say what is no learner's to read. */
const LETTER_TITLE = 'How you are doing';

/** Learners who may be written to at once with a page each. */
const MOST = 1000;

const TEXT = `Hello {{given_name}},

with this mail comes how you are doing in your course. If anything in it looks wrong, or you would like to talk about it, just answer.

{{my_name}}`;

/** What those beside a learner are written. */
const OTHER_SUBJECT = 'How {{name}} is doing';
const OTHER_TEXT = `Hello {{receiver}},

with this mail comes how {{name}} is doing in their course. If you have a question, or know of something that would help, just answer.

{{my_name}}`;

/**
 * Opens a message to the learners of a report, each with their own page of it. It is seen, held by quiet hours and by who
 * was written to of late, and put on record like any other.
 * @throws InvalidInput where the report is for staff alone or of too many, NotFound for nobody
 */
export async function writeToLearners(runtime: Runtime, viewer: Viewer, params: Params): Promise<number> {
  const { definition } = await definitionOfLink(runtime, viewer, params);
  if (definition.for !== 'outside')
    throw new InvalidInput([{ field: 'for', message: 'is staff alone: choose the learner, a family or an employer' }]);
  const { ids } = await openReport(runtime, viewer, definition);
  if (ids.length > MOST)
    throw new InvalidInput([{ field: 'whose', message: `is more than ${MOST} learners: send it in parts` }]);
  const view = await openDriftView(runtime, viewer);
  const text = {
    subject: LETTER_TITLE,
    body: TEXT,
    other_subject: OTHER_SUBJECT,
    other_body: OTHER_TEXT,
    is_about: 'yes',
  };
  return startDraft(runtime, view, ids, text, JSON.stringify(definition));
}

interface PageAsked {
  learnerId: number;
  /** The learner's name, and who reads the page. */
  name: string;
  receiver: Receiver;
  /** What the writer says on it; lines to write on where it is empty. */
  sentence: string;
}

/** What a page is called: by its reader it is about "you" or about somebody. */
function titleFor({ receiver, name }: Pick<PageAsked, 'receiver' | 'name'>): string {
  return receiver === 'learner' ? LETTER_TITLE : `How ${name} is doing`;
}

/** The page of one learner. */
async function pageOf(runtime: Runtime, viewer: Viewer, stored: string, asked: PageAsked) {
  const { learnerId, sentence } = asked;
  const definition = JSON.parse(stored) as ReportDefinition;
  const { filter } = definition.whose;
  // Of the report's filters, only whether those who have left are in it concerns somebody chosen by then.
  const whose = {
    ...definition.whose,
    filter: filter?.status ? { status: filter.status } : undefined,
    people: [learnerId],
  };
  const open = await openReport(runtime, viewer, { ...definition, whose });
  if (open.ids.length === 0) throw new NotFound('The learner of this page');
  return reportPdf(runtime, open, { title: titleFor(asked), layout: 'pages', sentence });
}

/** The page that goes with a draft of the viewer's, as one of its recipients, told by its key, gets it. @throws NotFound */
export async function pageOfDraft(runtime: Runtime, viewer: Viewer, draftId: number, key: string) {
  const view = await openDriftView(runtime, viewer);
  const { draft, recipients } = await openDraft(runtime, view, draftId);
  const recipient = recipients.find((one) => one.key === key);
  if (draft.report === null || !recipient) throw new NotFound('No such page');
  const { id: learnerId, name, receiver } = recipient;
  const sentence = sentenceFor(recipient, draft.sentence).text;
  return pageOf(runtime, viewer, draft.report, { learnerId, name, receiver, sentence });
}

/** Why a page cannot be made for a message that is on its way. */
export class NoReport extends Error {
  override name = 'NoReport';
}

/**
 * The file of a message that is about to go, in the scope that its writer has at this moment.
 * @throws NoReport where they have left, or the learner or course is theirs no more
 */
export async function letterFor(
  runtime: Runtime,
  { report, staffId, ...asked }: PageAsked & { report: string; staffId: number },
): Promise<{ filename: string; content: Buffer; contentType: string }> {
  const staff = await staffById(runtime.db, staffId);
  if (!staff || staff.ended_at !== null) throw new NoReport('Whoever wrote it has left: the report was not made.');
  try {
    const content = await buffer(await pageOf(runtime, await viewerOf(runtime.db, staff), report, asked));
    return { filename: `${fileName(titleFor(asked))}.pdf`, content, contentType: 'application/pdf' };
  } catch (error) {
    if (error instanceof NotFound || error instanceof InvalidInput)
      throw new NoReport('The learner, or what the report is of, is no longer the writer’s to see.');
    throw error;
  }
}
