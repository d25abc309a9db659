'use client';

import { useWindowVirtualizer } from '@tanstack/react-virtual';
import { useLayoutEffect, useRef, useState } from 'react';
import { useIsPrinting } from './printing';

/** What a row takes whose height is measured. */
export interface VirtualRow {
  ref?: (element: Element | null) => void;
  'data-index'?: number;
}

/** Rows drawn all of them: a page's worth, which is there before any script runs. */
const ALL_DRAWN = 120;
/** Rows drawn above and below what is in sight. */
const BEYOND = 15;

/**
 * Of the many rows of a table in the page, those near what is in sight; the others are two empty rows as high as they.
 *
 * @param estimate height of a row in px, until it has been drawn
 * @returns the places to draw, the height of what is left out above and below, and what the body and the rows take
 *
 * @example
 * const virtual = useVirtualRows(rows.length, 46);
 * <tbody ref={virtual.body}>
 *   <Gap height={virtual.above} />
 *   {virtual.places.map((place) => <tr key={rows[place].id} {...virtual.row(place)}>…</tr>)}
 *   <Gap height={virtual.below} />
 * </tbody>
 */
export function useVirtualRows<E extends HTMLElement = HTMLTableSectionElement>(count: number, estimate: number) {
  const body = useRef<E>(null);
  const [top, setTop] = useState(0);
  const isPrinting = useIsPrinting();
  const isCut = count > ALL_DRAWN && !isPrinting;
  // While all rows are drawn their height is known, so that nothing jumps when only some are.
  const usual = useRef(estimate);
  const virtualizer = useWindowVirtualizer({
    count,
    estimateSize: () => usual.current,
    overscan: BEYOND,
    scrollMargin: top,
    enabled: isCut,
  });
  useLayoutEffect(() => {
    if (!body.current) return;
    if (isCut) setTop(body.current.getBoundingClientRect().top + window.scrollY);
    else if (count > 0) usual.current = body.current.offsetHeight / count || estimate;
  }, [isCut, count, estimate]);
  const shown = isCut ? virtualizer.getVirtualItems() : null;
  return {
    body,
    /** Draws a row that is not, and brings it into sight. */
    scrollTo: (place: number) => virtualizer.scrollToIndex(place, { align: 'center' }),
    /** What a row is measured by; nothing where all are drawn. */
    row: (place: number): VirtualRow => (isCut ? { ref: virtualizer.measureElement, 'data-index': place } : {}),
    isCut,
    places: shown ? shown.map(({ index }) => index) : Array.from({ length: count }, (_, place) => place),
    above: shown?.length ? shown[0].start - top : 0,
    below: shown?.length ? virtualizer.getTotalSize() - (shown.at(-1)!.end - top) : 0,
  };
}
