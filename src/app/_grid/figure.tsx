import type { GridFigure } from '@/server/request/grid';
import { Series } from '@/ui/series';

/** What stands beside a name, as its column says. */
export function Figure({ figure }: { figure: string | GridFigure }) {
  if (typeof figure === 'string') return figure;
  const { text, hint, isBad, series } = figure;
  return (
    <span title={hint} data-bad={isBad || undefined}>
      {series && (
        <>
          <Series {...series} width={56} says={`Last values: ${series.values.map(Math.round).join(', ')}`} />{' '}
        </>
      )}
      {text}
    </span>
  );
}
