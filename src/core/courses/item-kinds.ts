export const ITEM_KINDS = ['page', 'file', 'link', 'video', 'quiz', 'assignment', 'discussion', 'session'] as const;
export type ItemKind = (typeof ITEM_KINDS)[number];
