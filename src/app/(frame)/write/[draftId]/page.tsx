import type { Metadata } from 'next';
import { dateOfDay } from '@/core/time/zone';
import { listTemplates } from '@/server/contact/reads';
import { openDraft } from '@/server/contact/write';
import { ownAddress } from '../../../_frame/own-address';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import { WriteForm } from './write-form';

/** Recipients whose facts come with the page; those of more are fetched when it is there. */
const FIRST_RECIPIENTS = 25;

export const metadata: Metadata = { title: 'Write' };

interface Props {
  params: Promise<{ draftId: string }>;
  searchParams: SearchParams;
}

export default async function WritePage({ params, searchParams }: Props) {
  const frame = await openFrame(searchParams);
  const { draftId } = await params;
  const { draft, recipients, possible } = await orNotFound(openDraft(frame.runtime, frame.view, Number(draftId)));
  const templates = (await listTemplates(frame.runtime, frame.viewer)).filter(
    (template) => template.is_praise === draft.is_praise,
  );
  const back = ownAddress(frame.params.from);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <WriteForm
          draftId={draft.id}
          text={{
            subject: draft.subject,
            body: draft.body,
            channel: draft.channel,
            template_id: draft.template_id === null ? '' : String(draft.template_id),
            follow_up_on: draft.follow_up_day === null ? '' : dateOfDay(draft.follow_up_day),
            is_about: draft.is_about === 1 ? 'yes' : 'no',
            other_subject: draft.other_subject,
            other_body: draft.other_body,
            sentence: draft.sentence,
          }}
          templates={templates.map(({ id, name, subject, body }) => ({ id, name, subject, body }))}
          sent={draft.sent_at !== null}
          // A draft opened anew has its own recipients.
          key={draft.id}
          first={recipients.slice(0, FIRST_RECIPIENTS)}
          total={recipients.length}
          receivers={draft.receivers}
          possible={possible}
          back={back}
          hasPage={draft.report !== null}
          isPraise={draft.is_praise === 1}
          now={frame.runtime.clock.now()}
          zone={frame.runtime.zone}
        />
      </div>
    </>
  );
}
