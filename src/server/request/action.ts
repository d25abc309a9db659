/** What a press does on the server: declared once, with what it takes, who may and what follows from it. */
import { refresh } from 'next/cache';
import type { Viewer } from '@/data/scope';
import { runtime, type Runtime } from '../runtime';
import { SignInRefused } from '../staff/sign-in-tries';
import { wakeWorker } from '../worker-host';
import { InvalidInput, NotFound, wholeNumbers, type FieldFault, type Values } from './input';
import { sayFaults } from '../../core/field-labels';
import { troubleOf } from './trouble';
import { requireViewer } from './viewer';

/** What an action answers: what came of it, or what was wrong, field by field. */
export type Result<T = void> = { ok: true; value: T } | { ok: false; says: string; errors: FieldFault[] };

/** Reads one argument of an action: what a browser sends may be anything, whatever its type says. */
type Reader<In, Out> = (sent: In) => Out;

export const text: Reader<string, string> = (sent) => String(sent ?? '');
export const textOrNull: Reader<string | null, string | null> = (sent) => (sent === null ? null : String(sent));
export const whole: Reader<number, number> = (sent) => Number(sent);
export const wholeOrNull: Reader<number | null, number | null> = (sent) => (sent === null ? null : Number(sent));
export const wholes: Reader<number[], number[]> = (sent) => wholeNumbers(sent);
export const texts: Reader<string[], string[]> = (sent) =>
  Array.isArray(sent) ? sent.filter((value) => typeof value === 'string') : [];
export const yes: Reader<boolean, boolean> = (sent) => sent === true;
/** Anything: what the work itself checks. */
export const unchecked =
  <T>(): Reader<T, unknown> =>
  (sent) =>
    sent;
/** A form's fields, to be checked by the class of the input that the work reads. */
export const form =
  <F extends object>(): Reader<F, Values> =>
  (sent) => ({ ...(sent as Values) });
/** Which of two values is taken, ours unless the other is asked for. */
export const oursOrTheirs: Reader<'ours' | 'theirs', 'ours' | 'theirs'> = (sent) =>
  sent === 'theirs' ? 'theirs' : 'ours';

// Parameters of a function type are compared the other way round: `never` is what any reader takes.
type Readers = readonly Reader<never, unknown>[];
type Sent<R extends Readers> = { [K in keyof R]: R[K] extends Reader<infer In, unknown> ? In : never };
type Read<R extends Readers> = { [K in keyof R]: R[K] extends Reader<never, infer Out> ? Out : never };

interface Action<R extends Readers, T> {
  /** What it takes, in order. */
  takes: R;
  /** The work: whoever is signed in, and what was sent, read. @throws InvalidInput, NotFound */
  run: (runtime: Runtime, viewer: Viewer, ...values: Read<R>) => Promise<T>;
  /** Does something follow from it that the worker has to do, such as drift that is read anew? */
  wakesWorker?: boolean;
  /** False where nothing changes that a page shows. */
  refreshes?: boolean;
}

/**
 * Makes an action: for whoever is signed in, with input that cannot be taken put into words.
 *
 * @example
 * export const saveDates = defineAction({
 *   takes: [text, form<FormOf<CourseDatesInput>>()],
 *   run: rules.saveDates,
 *   wakesWorker: true,
 * });
 */
export function defineAction<const R extends Readers, T>({
  takes,
  run,
  wakesWorker = false,
  refreshes = true,
}: Action<R, T>): (...sent: Sent<R>) => Promise<Result<T>> {
  return async (...sent) => {
    const viewer = await requireViewer();
    const opened = await runtime();
    const values = takes.map((read, index) => read(sent[index] as never)) as Read<R>;
    const result = await resultOf(() => run(opened, viewer, ...values));
    if (result.ok && refreshes) refresh();
    if (result.ok && wakesWorker) wakeWorker();
    return result;
  };
}

/** What came of some work; input that cannot be taken becomes words, never an error page. */
export async function resultOf<T>(work: () => Promise<T>): Promise<Result<T>> {
  try {
    return { ok: true, value: await work() };
  } catch (error) {
    if (error instanceof InvalidInput) return { ok: false, says: sayFaults(error.errors), errors: error.errors };
    if (error instanceof NotFound || error instanceof SignInRefused)
      return { ok: false, says: error.message, errors: [] };
    const trouble = troubleOf(error);
    if (trouble) return { ok: false, says: trouble.detail, errors: [] };
    throw error;
  }
}
