import { CourseTabs } from '../../_frame/sections';
import type { FrameContext } from '../../_frame/page-context';
import frameClasses from '../../_frame/frame.module.css';
import { TopBar } from '../../_frame/top-bar';

/** A screen about a course for somebody who sees none. */
export function NoCourse({ frame, says }: { frame: FrameContext; says: string }) {
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.page}>
        <CourseTabs />
        <p>You see no course with learners yet: {says}</p>
      </div>
    </>
  );
}
