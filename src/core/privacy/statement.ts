/** A statement of learning (xAPI) without the person it is of. */
import { actorId, actorKey } from '../feed/xapi/read';
import type { Eraser, PersonTerms } from './terms';

export interface ErasedStatement {
  body: string;
  /** What its source knew the person by, where it is of them: it is found by it no more. */
  key: string | null;
}

/** Whoever a statement is of that was erased: the standard wants an actor who can be told apart. */
const NOBODY = { objectType: 'Agent', account: { homePage: 'https://erased.invalid', name: 'erased' } };

/**
 * A statement's body without somebody; null where it does not name them. Of their own the answer goes as well.
 *
 * @param sums of their addresses, as `mbox_sha1sum` gives them
 */
export function eraseStatement(
  body: string,
  { ids, addresses }: PersonTerms,
  sums: readonly string[],
  eraser: Eraser,
): ErasedStatement | null {
  // Most are of somebody else: only what may name them is read.
  const isNamed =
    [...ids, ...addresses, ...sums].some((term) => body.includes(term)) ||
    eraser.finds(body) ||
    mayHoldAddress(body, addresses);
  if (!isNamed) return null;
  const statement = JSON.parse(body);
  const { by, value } = actorId(statement.actor);
  const isTheirs =
    (by === 'mail' && addresses.some((one) => one.toLowerCase() === value.toLowerCase())) ||
    (by === 'mail_sum' && sums.includes(value)) ||
    (by === 'account' && ids.includes(value));
  if (!isTheirs) {
    const left = eraser.erase(body);
    return left === body ? null : { body: left, key: null };
  }
  const key = actorKey(statement.actor);
  if (statement.result && typeof statement.result === 'object') delete statement.result.response;
  return { body: eraser.erase(JSON.stringify({ ...statement, actor: NOBODY })), key };
}

const mayHoldAddress = (body: string, addresses: readonly string[]) => {
  const small = body.toLowerCase();
  return addresses.some((one) => small.includes(one.toLowerCase()));
};
