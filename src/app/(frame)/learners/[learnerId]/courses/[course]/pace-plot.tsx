'use client';

import { CartesianGrid, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { BASE_AXIS, SIDE_AXIS, TOOLTIP } from '@/ui/chart';

interface Props {
  points: { label: string; planned: number; done: number | null }[];
  required: number;
}

/** Required items planned and done as lines. */
export function PacePlot({ points, required }: Props) {
  return (
    <ResponsiveContainer width="100%" height="100%">
      <LineChart data={points} margin={{ top: 6, right: 60, bottom: 0, left: 0 }}>
        <CartesianGrid vertical={false} stroke="var(--line)" />
        <XAxis dataKey="label" {...BASE_AXIS} minTickGap={24} />
        <YAxis width={40} domain={[0, Math.max(1, required)]} allowDecimals={false} {...SIDE_AXIS} />
        <Tooltip {...TOOLTIP} />
        <Line
          name="planned"
          dataKey="planned"
          stroke="var(--chart-4)"
          strokeDasharray="5 4"
          dot={false}
          isAnimationActive={false}
        />
        <Line
          name="done"
          dataKey="done"
          stroke="var(--water)"
          strokeWidth={2.5}
          dot={{ r: 2.5 }}
          isAnimationActive={false}
        />
      </LineChart>
    </ResponsiveContainer>
  );
}
