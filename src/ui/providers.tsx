'use client';

import { MantineProvider } from '@mantine/core';
import { Notifications } from '@mantine/notifications';
import type { ReactNode } from 'react';
import { theme } from './theme';

/** Mantine with the page's style nonce, so that the Content-Security-Policy lets its styles in. */
export function Providers({ nonce, children }: { nonce: string; children: ReactNode }) {
  return (
    <MantineProvider theme={theme} defaultColorScheme="auto" getStyleNonce={() => nonce}>
      <Notifications position="bottom-right" autoClose={10_000} />
      {children}
    </MantineProvider>
  );
}
