'use client';

import { Bar, BarChart, CartesianGrid, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { BASE_AXIS, SIDE_AXIS, TOOLTIP } from '@/ui/chart';

interface Props {
  data: { label: string; learners: number }[];
}

/** Learners by score as bars. */
export function DistributionPlot({ data }: Props) {
  return (
    <ResponsiveContainer width="100%" height="100%">
      <BarChart data={data} margin={{ top: 4, right: 4, bottom: 0, left: 0 }} barCategoryGap="8%">
        <CartesianGrid vertical={false} stroke="var(--line)" />
        <XAxis dataKey="label" {...BASE_AXIS} />
        <YAxis width={40} allowDecimals={false} {...SIDE_AXIS} />
        <Tooltip cursor={{ fill: 'var(--sand-pale)' }} {...TOOLTIP} />
        <Bar dataKey="learners" fill="var(--water)" isAnimationActive={false} />
      </BarChart>
    </ResponsiveContainer>
  );
}
