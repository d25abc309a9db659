'use client';

import { Bar, BarChart, CartesianGrid, ReferenceArea, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { BASE_AXIS, SIDE_AXIS, TOOLTIP } from '@/ui/chart';

interface Props {
  data: { label: string; gap: boolean; [series: string]: string | number | boolean }[];
  series: readonly string[];
  colours: readonly string[];
  /** Days on which the log is incomplete, by their labels. */
  incomplete: readonly string[];
  /** Opens the events of a day, by its place, and a series. */
  onOpen: (place: number, name: string) => void;
}

/** Opens per day as stacked bars. */
export function OpensPlot({ data, series, colours, incomplete, onOpen }: Props) {
  return (
    <ResponsiveContainer width="100%" height="100%">
      <BarChart data={data} margin={{ top: 4, right: 4, bottom: 0, left: 0 }} barCategoryGap="12%">
        <CartesianGrid vertical={false} stroke="var(--line)" />
        <XAxis dataKey="label" {...BASE_AXIS} minTickGap={24} />
        <YAxis width={52} allowDecimals={false} {...SIDE_AXIS} />
        <Tooltip cursor={{ fill: 'var(--sand-pale)' }} {...TOOLTIP} />
        {incomplete.map((label) => (
          <ReferenceArea key={label} x1={label} x2={label} fill="var(--band-none)" fillOpacity={0.25} />
        ))}
        {series.map((name, index) => (
          <Bar
            key={name}
            dataKey={name}
            stackId="opens"
            fill={colours[index % colours.length]}
            isAnimationActive={false}
            cursor="pointer"
            onClick={(_, place) => onOpen(place, name)}
          />
        ))}
      </BarChart>
    </ResponsiveContainer>
  );
}
