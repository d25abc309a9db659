/** What somebody may do, by who they are on the staff. */

/** May they change how a learner is reached, and keep notes on them? A partner's contact looks only. */
export function isStaffMember({ role }: { role: string }): boolean {
  return role !== 'coordinator';
}

/** May they change the programme itself: roster, sources, accounts? Only a lead who sees everybody. */
export function isLead({ role, all }: { role: string; all: boolean }): boolean {
  return role === 'lead' && all;
}
