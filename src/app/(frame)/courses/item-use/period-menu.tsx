'use client';

import { Button } from '@mantine/core';
import { opensLater } from '../../../_frame/opens-later';

const PeriodChoices = opensLater(() => import('./period-choices').then((module) => module.PeriodChoices));

interface Props {
  params: Record<string, string | undefined>;
  /** The period shown, in words. */
  says: string;
}

/** The period of the figures. */
export function PeriodMenu({ params, says }: Props) {
  return <PeriodChoices params={params} target={<Button variant="default">Opened {says}</Button>} />;
}
