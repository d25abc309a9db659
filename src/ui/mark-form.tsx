/** A mark as a form: a disc filled by its credit, an outline that is dashed where it does not count. */
interface Props {
  credit: number;
  counts: boolean;
  size?: number;
}

/** The part of a disc, clockwise from the top. */
function slice(share: number): string {
  const angle = 2 * Math.PI * share;
  const [x, y] = [8 + 6 * Math.sin(angle), 8 - 6 * Math.cos(angle)];
  return `M8 8V2A6 6 0 ${share > 0.5 ? 1 : 0} 1 ${x.toFixed(2)} ${y.toFixed(2)}Z`;
}

export function MarkForm({ credit, counts, size = 14 }: Props) {
  return (
    <svg width={size} height={size} viewBox="0 0 16 16" aria-hidden="true" focusable="false">
      <circle
        cx={8}
        cy={8}
        r={6}
        fill="none"
        stroke="currentColor"
        strokeWidth={1.5}
        strokeDasharray={counts ? undefined : '2 2'}
      />
      {counts && credit >= 1 && <circle cx={8} cy={8} r={6} fill="currentColor" />}
      {counts && credit > 0 && credit < 1 && <path d={slice(credit)} fill="currentColor" />}
      {!counts && <path d="M4.5 8h7" stroke="currentColor" strokeWidth={1.5} />}
    </svg>
  );
}
