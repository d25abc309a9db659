import { CourseTabs } from '../../_deck/sections';
import type { DeckContext } from '../../_deck/page-context';
import deckClasses from '../../_deck/deck.module.css';
import { TopBar } from '../../_deck/top-bar';

/** A screen about a course for somebody who sees none. */
export function NoCourse({ deck, says }: { deck: DeckContext; says: string }) {
  return (
    <>
      <TopBar deck={deck} />
      <div className={deckClasses.page}>
        <CourseTabs />
        <p>You see no course with learners yet: {says}</p>
      </div>
    </>
  );
}
