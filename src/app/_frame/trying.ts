/** What a server action answers: what came of it, or what was wrong, field by field. */
import { refresh } from 'next/cache';
import { SignInRefused } from '@/server/staff/accounts';
import { InvalidInput, NotFound, type FieldFault } from '@/server/request/input';
import { troubleOf } from '@/server/request/trouble';

export type Result<T = void> = { ok: true; value: T } | { ok: false; says: string; errors: FieldFault[] };

/** Does the work and has the page shown anew; input that cannot be taken becomes words, never an error page. */
export async function trying<T>(work: () => Promise<T>, showAnew = true): Promise<Result<T>> {
  try {
    const value = await work();
    if (showAnew) refresh();
    return { ok: true, value };
  } catch (error) {
    if (error instanceof InvalidInput) {
      const says = error.errors.map(({ field, message }) => `The ${field.replaceAll('_', ' ')} ${message}.`).join(' ');
      return { ok: false, says, errors: error.errors };
    }
    if (error instanceof NotFound || error instanceof SignInRefused)
      return { ok: false, says: error.message, errors: [] };
    const trouble = troubleOf(error);
    if (trouble) return { ok: false, says: trouble.detail, errors: [] };
    throw error;
  }
}
