/** What makes an item done: conditions that all have to hold. */
import type { ItemKind } from '../courses/item-kinds';
import type { EvidenceKind } from '../drift/evidence';

/** One condition of a rule. */
export type Condition =
  | { on: 'opened' | 'handed_in' | 'attended' | 'by_hand' }
  /** Minutes spent, share watched and share scored in per cent, times talked: at least so much. */
  | { on: 'minutes' | 'watched' | 'score' | 'talked'; least: number };

/** What an item's rule is where the outline says nothing. */
const BY_KIND: Record<ItemKind, readonly Condition[]> = {
  page: [{ on: 'opened' }],
  file: [{ on: 'opened' }],
  link: [{ on: 'opened' }],
  video: [{ on: 'opened' }],
  quiz: [{ on: 'handed_in' }],
  assignment: [{ on: 'handed_in' }],
  discussion: [{ on: 'talked', least: 1 }],
  session: [{ on: 'attended' }],
};

const WITH_NUMBER = /^(minutes|watched|score|talked)>=(\d+(?:\.\d+)?)%?$/;

/**
 * The conditions of an item, by what the outline says or by its kind.
 *
 * @param doneWhen conditions joined by semicolons, as an outline has them; null for the rule of the kind
 * @example ruleOf('quiz', 'handed_in;score>=50%') // [{ on: 'handed_in' }, { on: 'score', least: 50 }]
 */
export function ruleOf(kind: ItemKind, doneWhen: string | null): readonly Condition[] {
  if (!doneWhen) return BY_KIND[kind];
  return doneWhen.split(';').map((part): Condition => {
    const text = part.trim();
    const found = WITH_NUMBER.exec(text);
    return found ? ({ on: found[1], least: Number(found[2]) } as Condition) : ({ on: text } as Condition);
  });
}

/** A condition in words, for whoever is to meet it. */
function sayCondition(condition: Condition): string {
  switch (condition.on) {
    case 'opened':
      return 'opened';
    case 'handed_in':
      return 'handed in';
    case 'attended':
      return 'attended';
    case 'by_hand':
      return 'marked done by somebody';
    case 'minutes':
      return `${condition.least} minutes spent on it`;
    case 'watched':
      return `${condition.least} % watched`;
    case 'score':
      return `${condition.least} % or more`;
    case 'talked':
      return condition.least === 1 ? 'something posted' : `${condition.least} posts`;
  }
}

/** A rule in words. @example sayRule(ruleOf('quiz', 'handed_in;score>=50%')) // 'handed in, 50 % or more' */
export function sayRule(rule: readonly Condition[]): string {
  return rule.map(sayCondition).join(', ');
}

const EVIDENCE: Record<Condition['on'], EvidenceKind> = {
  opened: 'opens',
  minutes: 'opens',
  watched: 'watched',
  talked: 'talked',
  handed_in: 'hand_ins',
  score: 'grades',
  attended: 'sessions',
  by_hand: 'by_hand',
};

/** The kinds of evidence without which a rule cannot be met, in a fixed order. */
export function evidenceNeeded(rule: readonly Condition[]): EvidenceKind[] {
  return [...new Set(rule.map(({ on }) => EVIDENCE[on]))].sort();
}
