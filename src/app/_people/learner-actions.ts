/**
 * What one does about learners, declared once. The panel beside a list, the bar of the selected, the keys and the
 * list of keys are made from it; adding an action is a line here and what it does in `usePeople`.
 */
export const LEARNER_ACTIONS = [
  { name: 'write', key: 'w', label: 'Write', many: true },
  { name: 'call', key: 'l', label: 'Log a call', many: false },
  { name: 'note', key: 'n', label: 'Note', many: false },
  { name: 'setAside', key: 's', label: 'Set aside…', many: true },
  { name: 'followUp', key: 'f', label: 'Follow up…', many: true },
  { name: 'report', key: 'r', label: 'Report', many: true },
] as const;

export type LearnerAction = (typeof LEARNER_ACTIONS)[number];
export type ActionName = LearnerAction['name'];
