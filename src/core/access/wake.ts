/** One learner's last days as a strip. */
export interface WakeData {
  /** Day number of the first bar. */
  firstDay: number;
  /** 0 = Monday, of the first day. */
  firstWeekday: number;
  /** Minutes online of each day (estimate). */
  minutes: number[];
  /** Indexes of days with at least one event, ascending. */
  active: number[];
  /** Indexes of days on which an item fell due. */
  due: number[];
  /** Indexes of days without a complete log. */
  gaps: number[];
  /** Sessions: the day's index, and how it went. */
  sessions: [index: number, outcome: 'attended' | 'missed' | 'excused'][];
}
