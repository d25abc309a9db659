import { CourseTabs } from '../../_frame/sections';
import type { DeckContext } from '../../_frame/page-context';
import deckClasses from '../../_frame/deck.module.css';
import { TopBar } from '../../_frame/top-bar';

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
