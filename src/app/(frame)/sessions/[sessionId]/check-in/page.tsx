import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import QRCode from 'qrcode';
import { headers } from 'next/headers';
import { openSession } from '@/server/sessions/session';
import { checkInScreen } from '@/server/sessions/check-in';
import { openFrame, orNotFound, type SearchParams } from '../../../../_frame/page-context';
import frameClasses from '../../../../_frame/frame.module.css';
import { TopBar } from '../../../../_frame/top-bar';
import { SessionHead } from '../session-head';
import { CheckInBoard } from './check-in-board';

export const metadata: Metadata = { title: 'Check-in' };

interface Props {
  params: Promise<{ sessionId: string }>;
  searchParams: SearchParams;
}

/** The address that this page was asked for by: what a telephone in the same room can reach. */
async function ownOrigin(): Promise<string> {
  const asked = await headers();
  const host = asked.get('x-forwarded-host') ?? asked.get('host') ?? 'localhost';
  const scheme = asked.get('x-forwarded-proto')?.split(',')[0].trim() ?? 'http';
  return `${scheme}://${host}`;
}

export default async function CheckInPage({ params, searchParams }: Props) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const sessionId = decodeURIComponent((await params).sessionId);
  const opened = await orNotFound(openSession(runtime, viewer, sessionId));
  if (!opened.mayTake) notFound();
  const screen = await checkInScreen(runtime, viewer, sessionId);
  const address = `${await ownOrigin()}/in/${encodeURIComponent(sessionId)}`;
  const qr = await QRCode.toString(address, { type: 'svg', margin: 0, errorCorrectionLevel: 'M' });
  const { clock, zone } = runtime;
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <SessionHead opened={opened} instructors={[]} now={clock.now()} zone={zone} />
        <CheckInBoard
          sessionId={sessionId}
          title={opened.session.title}
          address={address}
          qr={`data:image/svg+xml;base64,${Buffer.from(qr).toString('base64')}`}
          first={screen}
          zone={zone}
        />
      </div>
    </>
  );
}
