/** Lowest scores of slipping and adrift. */
export interface BandEdges {
  slipping: number;
  adrift: number;
}

export const DEFAULT_EDGES: BandEdges = { slipping: 30, adrift: 60 };

/** Points under its edge at which a worse band is left at once. */
export const LEAVE_MARGIN = 5;

export const BAND_WORDS = ['on course', 'slipping', 'adrift'] as const;

/** The band's name; null is "no reading". */
export function bandWord(band: Band | null): string {
  return band === null ? 'no reading' : BAND_WORDS[band];
}

/** The band of a score by the edges alone. */
export function bandOf(score: number, edges: BandEdges = DEFAULT_EDGES): Band {
  if (score >= edges.adrift) return 2;
  return score >= edges.slipping ? 1 : 0;
}

/** The reading before this one. */
export interface PreviousReading {
  score: number | null;
  band: Band | null;
}

/**
 * The band of a score, given the reading before: a worse band is entered at its edge, but
 * left only 5 points under it or at the second reading in a row below, so that a learner
 * at an edge does not flicker.
 */
export function nextBand(score: number, previous: PreviousReading | null, edges: BandEdges = DEFAULT_EDGES): Band {
  const plain = bandOf(score, edges);
  if (!previous || previous.band === null || previous.score === null || plain >= previous.band) return plain;
  const edge = previous.band === 2 ? edges.adrift : edges.slipping;
  if (score <= edge - LEAVE_MARGIN || previous.score < edge) return plain;
  return previous.band;
}

/** One enrolment's reading, as combined over several. */
export interface EnrolmentReading {
  score: number | null;
  band: Band | null;
}

/**
 * Drift over several courses: `0.6 · worst + 0.4 · mean` of those that have a reading.
 * A band that one of the courses is held in is kept while the sum is within 5 points of
 * its edge, so the flicker rule carries over. Of one course alone its own band holds, which may have other edges.
 * `data/drift/drift.ts` has the same in SQL.
 */
export function combine(
  readings: readonly EnrolmentReading[],
  edges: BandEdges = DEFAULT_EDGES,
): { score: number | null; band: Band | null } {
  const read = readings.filter((r): r is { score: number; band: Band } => r.score !== null && r.band !== null);
  if (read.length === 0) return { score: null, band: null };
  if (read.length === 1) return { score: read[0].score, band: read[0].band };
  const worst = Math.max(...read.map((r) => r.score));
  const mean = read.reduce((sum, r) => sum + r.score, 0) / read.length;
  const score = 0.6 * worst + 0.4 * mean;
  const held = Math.max(...read.map((r) => r.band));
  if (score >= edges.adrift || (held === 2 && score > edges.adrift - LEAVE_MARGIN)) return { score, band: 2 };
  if (score >= edges.slipping || (held >= 1 && score > edges.slipping - LEAVE_MARGIN)) return { score, band: 1 };
  return { score, band: 0 };
}

/** 0 on course, 1 slipping, 2 adrift. */
export type Band = 0 | 1 | 2;
