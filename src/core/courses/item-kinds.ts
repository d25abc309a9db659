export const ITEM_KINDS = ['page', 'file', 'link', 'video', 'quiz', 'assignment', 'discussion', 'session'] as const;
export type ItemKind = (typeof ITEM_KINDS)[number];

/** A unit's check at its beginning and at its end. */
export const STAGES = ['before', 'after'] as const;
export type Stage = (typeof STAGES)[number];
