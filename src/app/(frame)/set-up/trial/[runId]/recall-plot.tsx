'use client';

import { Area, CartesianGrid, ComposedChart, Line, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { BASE_AXIS, SIDE_AXIS, TOOLTIP } from '@/ui/chart';

interface Props {
  data: Record<string, number | null | (number | null)[]>[];
  /** Numbers of people a week. */
  people: readonly number[];
  /** The first rule, whose interval is drawn. */
  title: string;
  names: readonly string[];
  styles: readonly { stroke: string; strokeWidth: number; strokeDasharray?: string }[];
}

/** Leavers found in time as lines, the first with its interval. */
export function RecallPlot({ data, people, title, names, styles }: Props) {
  return (
    <ResponsiveContainer width="100%" height="100%">
      <ComposedChart data={data} margin={{ top: 8, right: 12, bottom: 4, left: 0 }}>
        <CartesianGrid vertical={false} stroke="var(--line)" />
        <XAxis
          dataKey="people"
          type="number"
          domain={[0, 'dataMax']}
          ticks={[0, ...people.filter((count) => count % 4 === 0)]}
          {...BASE_AXIS}
        />
        <YAxis width={52} domain={[0, 100]} unit=" %" {...SIDE_AXIS} />
        <Tooltip {...TOOLTIP} labelFormatter={(count) => `${count} a week`} />
        <Area
          dataKey="interval"
          name={`${title}, 90 %`}
          stroke="none"
          fill="var(--water)"
          fillOpacity={0.15}
          isAnimationActive={false}
        />
        {names.map((name, index) => (
          <Line key={name} dataKey={name} dot={false} isAnimationActive={false} {...styles[index]} />
        ))}
      </ComposedChart>
    </ResponsiveContainer>
  );
}
