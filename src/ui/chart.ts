/** How every chart is drawn. */

/** Of an axis: its words, and no ticks. */
const AXIS = { tick: { fill: 'var(--muted)', fontSize: 12 }, tickLine: false } as const;

/** Of an axis along the bottom, which has a line. */
export const BASE_AXIS = { ...AXIS, axisLine: { stroke: 'var(--line)' } } as const;

/** Of an axis at the side, which has none. */
export const SIDE_AXIS = { ...AXIS, axisLine: false } as const;

/** Of what is told of the place under the pointer. */
export const TOOLTIP = {
  contentStyle: { background: 'var(--ground)', border: '1px solid var(--line)', fontSize: 13 },
  labelStyle: { color: 'var(--text)' },
  itemStyle: { color: 'var(--text)' },
  isAnimationActive: false,
} as const;
