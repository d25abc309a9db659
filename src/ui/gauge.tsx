import { bandWord } from '@/core/drift/bands';
import type { Band } from '@/core/drift/types';

export function bandColor(band: Band | null): string {
  return `var(--band-${band ?? 'none'})`;
}

export function bandTextColor(band: Band | null): string {
  return band === 1 || band === null ? `var(--band-${band ?? 'none'}-text)` : bandColor(band);
}

/** Drift as a filled height; no reading is a dashed outline. The word stands for the picture. */
export function Gauge({ score, band, height = 28 }: { score: number | null; band: Band | null; height?: number }) {
  const inner = height - 4;
  const fill = score === null ? 0 : Math.max(1, (inner * score) / 100);
  const label = score === null ? 'no reading' : `${bandWord(band)}, drift ${Math.round(score)}`;
  return (
    <svg width="14" height={height} viewBox={`0 0 14 ${height}`} role="img" aria-label={label}>
      <rect
        x="1"
        y="1"
        width="12"
        height={height - 2}
        rx="3"
        fill="none"
        stroke={score === null ? 'var(--band-none)' : 'var(--muted)'}
        strokeDasharray={score === null ? '3 2' : undefined}
        strokeOpacity={score === null ? 1 : 0.45}
      />
      {score !== null && <rect x="3" y={2 + inner - fill} width="8" height={fill} rx="1" fill={bandColor(band)} />}
    </svg>
  );
}
