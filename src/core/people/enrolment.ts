export const ENROLMENT_STATUSES = ['active', 'withdrawn', 'completed'] as const;
export type EnrolmentStatus = (typeof ENROLMENT_STATUSES)[number];
