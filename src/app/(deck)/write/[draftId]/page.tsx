import type { Metadata } from 'next';
import { openDraft } from '@/server/write';
import { openDeck, orNotFound, type SearchParams } from '../../../_deck/page-context';
import deckClasses from '../../../_deck/deck.module.css';
import { TopBar } from '../../../_deck/top-bar';
import { WriteForm } from './write-form';

export const metadata: Metadata = { title: 'Write' };

interface Props {
  params: Promise<{ draftId: string }>;
  searchParams: SearchParams;
}

export default async function WritePage({ params, searchParams }: Props) {
  const deck = await openDeck(searchParams);
  const { draftId } = await params;
  const { draft, recipients } = await orNotFound(openDraft(deck.runtime, deck.view, Number(draftId)));
  const back = deck.params.from ?? '/watch';
  return (
    <>
      <TopBar deck={deck} />
      <div className={deckClasses.page}>
        <WriteForm
          draftId={draft.id}
          subject={draft.subject}
          body={draft.body}
          sent={draft.sent_at !== null}
          recipients={recipients}
          back={back}
          now={deck.runtime.clock.now()}
          zone={deck.runtime.zone}
        />
      </div>
    </>
  );
}
