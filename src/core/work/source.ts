/** How a result or an extension came: from a file, by a live statement, or by hand. */
export type WorkSource = 'file' | 'live' | 'hand';
