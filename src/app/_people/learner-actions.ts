/**
 * What one does about learners, declared once. The panel beside a list, the bar of the selected, the keys and the
 * list of keys are made from it (the panel has those that are often asked for); adding an action is a line here and what it does in `usePeople`.
 */
export const LEARNER_ACTIONS = [
  { name: 'write', key: 'w', label: 'Write', many: true, inPanel: true },
  { name: 'call', key: 'l', label: 'Log a call', many: false, inPanel: true },
  { name: 'note', key: 'n', label: 'Note', many: false, inPanel: true },
  { name: 'setAside', key: 's', label: 'Set aside…', many: true, inPanel: true },
  { name: 'followUp', key: 'f', label: 'Follow up…', many: true, inPanel: true },
  { name: 'caseload', key: 'c', label: 'Caseload…', many: true, inPanel: false },
  { name: 'report', key: 'r', label: 'Report', many: true, inPanel: false },
] as const;

export type LearnerAction = (typeof LEARNER_ACTIONS)[number];
export type ActionName = LearnerAction['name'];
