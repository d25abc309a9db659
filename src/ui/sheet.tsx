'use client';

import type { DrawerProps } from '@mantine/core';
import dynamic from 'next/dynamic';
import { useEffect, useRef } from 'react';

const load = () => import('./sheet-drawer').then((module) => module.SheetDrawer);
const SheetDrawer = dynamic(load, { ssr: false });
/** Under dialogs (200): they are opened from it, whichever came first. */
const UNDER_DIALOGS = 190;

/** A sheet that slides up from the foot of a narrow screen; its code comes after the page, and only where it may open. */
export function Sheet({ isNear, ...props }: DrawerProps & { isNear: boolean }) {
  const wasOpened = useRef(false);
  wasOpened.current ||= props.opened;
  useEffect(() => {
    if (isNear) void load().catch(() => undefined);
  }, [isNear]);
  return wasOpened.current ? <SheetDrawer position="bottom" zIndex={UNDER_DIALOGS} {...props} /> : null;
}
