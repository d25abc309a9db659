import { redirect } from 'next/navigation';
import { isStaffMember } from '@/core/staff/rights';
import { requireViewer } from '@/server/request/viewer';

/** Staff begin on the Watch, a partner's contact on the page of their organisation. */
export default async function Start() {
  redirect(isStaffMember(await requireViewer()) ? '/watch' : '/organisations?start=yes');
}
