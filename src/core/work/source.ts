/** How a result or an extension came: from a file, by a live statement, by hand, or from a gradebook that gives scores alone. */
export type WorkSource = 'file' | 'live' | 'hand' | 'gradebook';
