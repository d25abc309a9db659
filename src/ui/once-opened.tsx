'use client';

import dynamic from 'next/dynamic';
import { useRef, type ComponentType } from 'react';

/**
 * A dialog or a sheet whose code comes when it is first opened; from then on it stays, so that it can close in its own way
 * and keep what was typed.
 *
 * @example const Sheet = onceOpened(() => import('./sheet-drawer').then((module) => module.SheetDrawer));
 */
export function onceOpened<P extends { opened?: boolean }>(load: () => Promise<ComponentType<P>>): ComponentType<P> {
  const Loaded = dynamic(load, { ssr: false });
  return function OnceOpened(props: P) {
    const { opened = true } = props;
    const wasOpened = useRef(false);
    wasOpened.current ||= opened;
    return wasOpened.current ? <Loaded {...props} /> : null;
  };
}
