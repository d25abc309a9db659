/** A learner's work as drift judges it: what was due, handed in and graded by a day. */

/** A piece of work of the course, as everybody has it. */
export interface Piece {
  itemId: number;
  /** Epoch ms; null where it has no date. */
  dueAt: number | null;
  /** The day it is due, or planned by where it has no date; null for neither. */
  dueDay: number | null;
  /** From when it can be handed in; null where nobody said. */
  opensDay: number | null;
}

/** One attempt at a piece. */
export interface PieceAttempt {
  submittedAt: number | null;
  submittedDay: number | null;
  /** From when its score was known; null without one. */
  gradedDay: number | null;
  /** Of the points, 0 or more. */
  share: number | null;
  points: number;
}

/** What one learner has of a piece. */
export interface OwnPiece {
  /** An extension's date, and from when it was known. */
  dueAt: number | null;
  dueDay: number | null;
  extendedDay: number | null;
  /** From when they were excused. */
  excusedDay: number | null;
  attempts: readonly PieceAttempt[];
}

/** All of it, of one enrolment. */
export interface WorkFacts {
  pieces: readonly Piece[];
  own: ReadonlyMap<number, OwnPiece>;
  /** Planned days of required items, ascending, and the days on which such were done. */
  plan: readonly number[];
  doneDays: readonly number[];
  /** In per cent. */
  passMark: number;
}

export const NO_WORK: WorkFacts = { pieces: [], own: new Map(), plan: [], doneDays: [], passMark: 50 };

/** A piece as it stood for somebody at the end of a day. */
export interface PieceThen {
  itemId: number;
  dueAt: number | null;
  dueDay: number | null;
  opensDay: number | null;
  /** The first hand-in by then, and the day of it; null for none. */
  handedInAt: number | null;
  handedInDay: number | null;
  /** The best share that was known by then, the points, and the day it was known; null for none. */
  result: { share: number; points: number; day: number } | null;
}

/** The pieces of an enrolment as they stood at the end of a day, without those it was excused from. */
export function piecesThen({ pieces, own }: WorkFacts, day: number): PieceThen[] {
  const then: PieceThen[] = [];
  for (const piece of pieces) {
    const mine = own.get(piece.itemId);
    if (mine?.excusedDay !== null && mine?.excusedDay !== undefined && mine.excusedDay <= day) continue;
    const isExtended =
      mine !== undefined && mine.dueDay !== null && mine.extendedDay !== null && mine.extendedDay <= day;
    let first: PieceAttempt | null = null;
    let result: PieceThen['result'] = null;
    for (const attempt of mine?.attempts ?? []) {
      const { submittedDay, gradedDay, share, points } = attempt;
      if (submittedDay !== null && submittedDay <= day && (first === null || attempt.submittedAt! < first.submittedAt!))
        first = attempt;
      if (share !== null && gradedDay !== null && gradedDay <= day && (result === null || share > result.share))
        result = { share, points, day: gradedDay };
    }
    then.push({
      itemId: piece.itemId,
      opensDay: piece.opensDay,
      dueAt: isExtended ? mine.dueAt : piece.dueAt,
      dueDay: isExtended ? mine.dueDay : piece.dueDay,
      handedInAt: first?.submittedAt ?? null,
      handedInDay: first?.submittedDay ?? null,
      result,
    });
  }
  return then;
}

/** Graded pieces in the order in which their results were known. */
export function gradedThen(pieces: readonly PieceThen[]): (PieceThen & { result: NonNullable<PieceThen['result']> })[] {
  return pieces
    .filter((piece): piece is PieceThen & { result: NonNullable<PieceThen['result']> } => piece.result !== null)
    .sort((a, b) => a.result.day - b.result.day || (a.handedInAt ?? 0) - (b.handedInAt ?? 0) || a.itemId - b.itemId);
}
