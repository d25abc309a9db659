/** Message texts with fields, filled with each learner's own facts. */

/** The fields a text may have, with what stands for each in a list of choices. */
export const MESSAGE_FIELDS = {
  given_name: 'given name',
  name: 'whole name',
  course: 'course',
  group: 'group',
  days_quiet: 'days quiet',
  last_access: 'last access',
  next_due: 'what is due next',
  next_session: 'next session',
  overdue_list: 'what is overdue, a line each',
  missed_sessions: 'sessions missed in a row',
  good_news: 'what went well last, in praise',
  receiver: 'who receives it',
  my_name: 'my name',
} as const;

type MessageField = keyof typeof MESSAGE_FIELDS;
export type MessageFacts = Record<MessageField, string | null>;

const FIELD = /\{\{([^{}]*)\}\}/g;

function isField(name: string): name is MessageField {
  return Object.hasOwn(MESSAGE_FIELDS, name);
}

/** Names in the text that are no field, in order, each once. */
export function unknownFields(text: string): string[] {
  const names = [...text.matchAll(FIELD)].map((match) => match[1].trim());
  return [...new Set(names.filter((name) => !isField(name)))];
}

/** What is wrong with a text's fields, in words; null when nothing is. */
export function fieldFault(text: string): string | null {
  const unknown = unknownFields(text);
  if (unknown.length > 0) {
    const names = unknown.map((name) => name || '(empty)').join(', ');
    return `has a field that does not exist: ${names}. There are ${Object.keys(MESSAGE_FIELDS).join(', ')}`;
  }
  if (/\{\{|\}\}/.test(text.replace(FIELD, ''))) return 'has {{ or }} that belong to no field';
  return null;
}

export interface Filled {
  text: string;
  /** Fields without a value for this learner: the message must not go out. */
  missing: string[];
}

/**
 * Puts a learner's facts in place of `{{fields}}`. A field with no value, or no such
 * field, stays visible in the text and is named in `missing`: never an empty gap.
 */
export function fill(text: string, facts: MessageFacts): Filled {
  const missing = new Set<string>();
  const filled = text.replace(FIELD, (whole, field: string) => {
    const name = field.trim();
    const value = isField(name) ? facts[name] : null;
    if (value === null || value === '') {
      missing.add(name);
      return whole;
    }
    return value;
  });
  return { text: filled, missing: [...missing] };
}
