import type { Metadata } from 'next';
import { dateOfDay } from '@/core/time/zone';
import { listTemplates } from '@/server/contact/reads';
import { openDraft } from '@/server/contact/write';
import { ownAddress } from '../../../_frame/own-address';
import { openDeck, orNotFound, type SearchParams } from '../../../_frame/page-context';
import deckClasses from '../../../_frame/deck.module.css';
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
  const deck = await openDeck(searchParams);
  const { draftId } = await params;
  const { draft, recipients } = await orNotFound(openDraft(deck.runtime, deck.view, Number(draftId)));
  const templates = await listTemplates(deck.runtime, deck.viewer);
  const back = ownAddress(deck.params.from);
  return (
    <>
      <TopBar deck={deck} present />
      <div className={deckClasses.page}>
        <WriteForm
          draftId={draft.id}
          text={{
            subject: draft.subject,
            body: draft.body,
            channel: draft.channel,
            template_id: draft.template_id === null ? '' : String(draft.template_id),
            look_again: draft.look_again_day === null ? '' : dateOfDay(draft.look_again_day),
            is_about: draft.is_about === 1 ? 'yes' : 'no',
          }}
          templates={templates.map(({ id, name, subject, body }) => ({ id, name, subject, body }))}
          sent={draft.sent_at !== null}
          // A draft opened anew has its own recipients.
          key={draft.id}
          first={recipients.slice(0, FIRST_RECIPIENTS)}
          total={recipients.length}
          back={back}
          now={deck.runtime.clock.now()}
          zone={deck.runtime.zone}
        />
      </div>
    </>
  );
}
