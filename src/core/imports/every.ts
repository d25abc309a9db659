/** How often a file may be fetched from its address, in minutes, in words. */
export const EVERY = { 60: 'every hour', 360: 'every six hours', 1440: 'every day', 10080: 'every week' } as const;
