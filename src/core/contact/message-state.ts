/** What has become of a message. */
export const MESSAGE_STATE_WORDS = {
  queued: 'waiting',
  sending: 'being sent',
  sent: 'sent',
  unsure: 'unsure',
  failed: 'failed',
  bounced: 'could not be delivered',
} as const;

export type MessageState = keyof typeof MESSAGE_STATE_WORDS;
export const MESSAGE_STATES = Object.keys(MESSAGE_STATE_WORDS) as MessageState[];
