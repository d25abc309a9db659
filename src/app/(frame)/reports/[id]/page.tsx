import { redirect } from 'next/navigation';
import { reportOf } from '@/server/reports/kept';
import { paramsOf } from '@/server/reports/link';
import { requireViewer } from '@/server/request/viewer';
import { runtime } from '@/server/runtime';
import { orNotFound } from '../../../_frame/page-context';
import { linkTo } from '../../../_list/list-link';

/** A kept report by its number, as mails have it: opened as it is kept. */
export default async function KeptReportPage({ params }: { params: Promise<{ id: string }> }) {
  const viewer = await requireViewer();
  const report = await orNotFound(reportOf(await runtime(), viewer, (await params).id));
  redirect(linkTo('/reports/choose', paramsOf(report.definition, report.id)));
}
