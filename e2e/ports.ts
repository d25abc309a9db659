/** Where the end-to-end tests' own application and stand-ins listen. */
export const PORT = 4380;
export const SMTP_PORT = 4382;
export const INBOX_PORT = 4383;
export const SMS_PORT = 4384;
export const CAMPUS_PORT = 4385;
export const MEETING_PORT = 4386;
export const PROVIDER_PORT = 4387;
export const LTI_PORT = 4388;
export const INBOUND_TOKEN = 'end-to-end-inbound-0001';
/** A second application, on an empty data folder. */
export const EMPTY_PORT = 4390;
export const TOKEN = 'end-to-end-token-0001';
/** The frozen now of the tests. */
export const NOW = '2026-11-24T09:10:00Z';
