/** What is a lead's alone: for anybody else it does not exist. */
import { isLead } from '@/core/staff/rights';
import type { Viewer } from '@/data/scope';
import { NotFound } from './input';

/** @throws NotFound for all but leads who see everybody */
export function requireLead(viewer: Viewer): void {
  if (!isLead(viewer)) throw new NotFound();
}
