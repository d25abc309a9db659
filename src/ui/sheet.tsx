'use client';

import type { DrawerProps } from '@mantine/core';
import { useEffect } from 'react';
import { onceOpened } from './once-opened';

const load = () => import('./sheet-drawer').then((module) => module.SheetDrawer);
const SheetDrawer = onceOpened<DrawerProps>(load);
/** Under dialogs (200): they are opened from it, whichever came first. */
const UNDER_DIALOGS = 190;

/** A sheet that slides up from the foot of a narrow screen; its code is fetched ahead where it may well be opened. */
export function Sheet({ isNear, ...props }: DrawerProps & { isNear: boolean }) {
  useEffect(() => {
    if (isNear) void load().catch(() => undefined);
  }, [isNear]);
  return <SheetDrawer position="bottom" zIndex={UNDER_DIALOGS} {...props} />;
}
