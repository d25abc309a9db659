/** A learner explained, as lists, panels and pages show them: plain data, cut to the viewer's scope. */
import type { MessageState } from './message-state';
import type { WakeData } from '../access/wake';
import type { Sentence } from '../drift/sentence';
import type { Band } from '../drift/bands';
import type { CallOutcome } from './call';
import type { Channel } from './recipient';

interface ReasonShown {
  factor: string;
  title: string;
  /** The sentence, and the whole of it in words. */
  says: Sentence;
  whole: string;
  points: number;
}

export interface EnrolmentShown {
  id: number;
  courseId: number;
  course: string;
  title: string;
  group: string | null;
  status: string;
  enrolledDay: number;
  endedDay: number | null;
  lastAccess: number | null;
  daysQuiet: number | null;
  ms: number;
  score: number | null;
  band: Band | null;
  change: number | null;
  /** Pieces owed, share of required items done 0–1, mean on graded work in per cent; null of a past day or unknown. */
  overdue: number | null;
  progress: number | null;
  onGraded: number | null;
  /** What the platform says, in words, where there is nothing of ours. */
  platform: string | null;
  reasons: ReasonShown[];
  /** Reasons that could be judged, of how many there are; both 0 where nothing was read. */
  judged: { by: number; of: number };
  notCounted: string[];
  /** The day on which the log stopped, where the reading stands as it stood then. */
  stoodOn: number | null;
  /** Why there is no reading, in words; null where there is one. */
  without: string | null;
  /** Was the day read by other weights than today's? It stays as it was read. */
  readOtherwise: boolean;
}

export interface VisitShown {
  start: number;
  first: number;
  last: number;
  ms: number;
  events: number;
  courses: string[];
}

export interface ContactShown {
  id: number;
  kind: Channel | 'call';
  at: number;
  /** Of a message. */
  state: MessageState | null;
  /** Of a call. */
  outcome: CallOutcome | null;
  subject: string;
  body: string;
  by: string;
  mine: boolean;
  /** When they came back after it, if they did. */
  cameBack: number | null;
  /** When they first answered it, and the first words of that. */
  answeredAt: number | null;
  answer: string | null;
  /** "Wrote 6 days ago · answered · came back". */
  says: string;
}

export interface Person {
  id: number;
  learnerId: string;
  name: string;
  /** Set when another learner in view has the same name. */
  toldApart: string | null;
  /** Has no roster told of them yet? */
  isProvisional: boolean;
  email: string | null;
  phone: string | null;
  organisation: string | null;
  lastAccess: number | null;
  daysQuiet: number | null;
  ms: number;
  score: number | null;
  band: Band | null;
  enrolments: EnrolmentShown[];
  visits: VisitShown[];
  contacts: ContactShown[];
  wake: WakeData;
}
