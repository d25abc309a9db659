/** What learners are shown of their own page, by course. */

/** Each part with what its switch says. */
export const SHOWN_SECTIONS = {
  weights: 'weights of categories',
  percentages: 'scores in per cent',
  means: 'the three means',
  feedback: 'feedback',
  minutes: 'minutes spent',
  average: 'the group’s average beside each score',
} as const;

export type ShownSection = keyof typeof SHOWN_SECTIONS;
export type ShownSections = Record<ShownSection, boolean>;

/** Where a course has not chosen: all but what compares with others. */
export const DEFAULT_SHOWN: ShownSections = {
  weights: true,
  percentages: true,
  means: true,
  feedback: true,
  minutes: true,
  average: false,
};
