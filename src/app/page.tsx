import { redirect } from 'next/navigation';
import { requireViewer } from '@/server/request/viewer';

export default async function Start() {
  await requireViewer();
  redirect('/watch');
}
