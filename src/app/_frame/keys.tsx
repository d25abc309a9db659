'use client';

import { useDisclosure } from '@mantine/hooks';
import dynamic from 'next/dynamic';
import { useLetters } from './letters';

const KeyList = dynamic(() => import('./key-list').then((module) => module.KeyList), { ssr: false });

/** The list of keys, under `?`, on every screen; fetched when it is asked for. */
export function Keys() {
  const [opened, { open, close }] = useDisclosure();
  useLetters([['shift+?', open]]);
  return opened && <KeyList opened onClose={close} />;
}
