'use client';

import { MantineProvider } from '@mantine/core';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { setNonce } from 'get-nonce';
import { useState, type ReactNode } from 'react';
import { afterLoad } from './after-load';
import { cssVariables, theme } from './theme';

/** Where notices appear; those of before it is there wait for it. */
const Notices = afterLoad(() => import('@mantine/notifications').then((module) => module.Notifications));

/** What lists load by, and Mantine with the page's style nonce, so that the Content-Security-Policy lets its styles in. */
export function Providers({ nonce: given, children }: { nonce: string; children: ReactNode }) {
  // The document's own: a later page comes with another nonce, but into the same document.
  const [nonce] = useState(given);
  const [queries] = useState(() => new QueryClient());
  // Drawers and menus hold the page still by a style of their own, which asks here for its nonce.
  if (nonce) setNonce(nonce);
  return (
    <MantineProvider
      theme={theme}
      cssVariablesResolver={cssVariables}
      defaultColorScheme="auto"
      getStyleNonce={() => nonce}
    >
      <Notices position="bottom-right" autoClose={10_000} />
      <QueryClientProvider client={queries}>{children}</QueryClientProvider>
    </MantineProvider>
  );
}
