import { prepared, type RawConnection } from '../db';

/** SQL of whether results tell of hand-ins of an item: a gradebook does not, so what the log tells of them stands. */
export const hasResultsSql = (item: string) =>
  `EXISTS (SELECT 1 FROM attempt WHERE attempt.item_id = ${item} AND attempt.source <> 'gradebook')`;

/** Has an item no results yet? Its first ones take the place of the log's hand-ins, for everybody. */
export function isWithoutResults(raw: RawConnection, itemId: number): boolean {
  return (
    prepared(raw, `SELECT ${hasResultsSql('?')}`)
      .pluck()
      .get(itemId) === 0
  );
}
