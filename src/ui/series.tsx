/** A few figures as a tiny line, with gaps where nothing was known; its last value as a dot. */
interface Props {
  values: readonly (number | null)[];
  /** The lowest and highest value of the picture. */
  from?: number;
  to?: number;
  width?: number;
  height?: number;
  /** A level to hold them against, such as the pass mark. */
  level?: number;
  says: string;
}

const short = (value: number) => Math.round(value * 10) / 10;

export function Series({ values, from = 0, to = 100, width = 64, height = 18, level, says }: Props) {
  const step = values.length < 2 ? 0 : (width - 6) / (values.length - 1);
  const x = (index: number) => short(3 + index * step);
  const y = (value: number) =>
    short(height - 3 - ((height - 6) * Math.min(to, Math.max(from, value) - from)) / (to - from || 1));
  let path = '';
  let isOpen = false;
  values.forEach((value, index) => {
    if (value === null) isOpen = false;
    else {
      path += `${isOpen ? 'L' : 'M'}${x(index)} ${y(value)}`;
      // A value between two gaps is a point: a line of no length would not be seen.
      if (!isOpen && (values[index + 1] ?? null) === null) path += 'h.1';
      isOpen = true;
    }
  });
  const last = values.findLastIndex((value) => value !== null);
  return (
    <svg width={width} height={height} viewBox={`0 0 ${width} ${height}`} role="img" aria-label={says}>
      {level !== undefined && <path d={`M0 ${y(level)}H${width}`} stroke="var(--band-none)" strokeDasharray="2 3" />}
      {path && <path d={path} fill="none" stroke="var(--water)" strokeWidth="1.5" strokeLinecap="round" />}
      {last >= 0 && <circle cx={x(last)} cy={y(values[last]!)} r="2" fill="var(--ink)" />}
    </svg>
  );
}
