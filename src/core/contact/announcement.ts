/**
 * A message to more people than these at once is an announcement: nobody waits for what it brings, unless its writer says
 * that it is about how they are doing.
 */
export const ANNOUNCED_TO = 30;
