'use client';

import { useDisclosure, useHotkeys } from '@mantine/hooks';
import dynamic from 'next/dynamic';

const KeyList = dynamic(() => import('./key-list').then((module) => module.KeyList), { ssr: false });

/** The list of keys, under `?`, on every screen; fetched when it is asked for. */
export function Keys() {
  const [opened, { open, close }] = useDisclosure();
  useHotkeys([['shift+?', open]]);
  return opened && <KeyList opened onClose={close} />;
}
