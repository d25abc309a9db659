/** Whether the call of a server action is whole, before it is taken apart: what is not gets a 400, never a 500. */

/** Names that would make a value something else than data once it is looked at as text or as a number. */
const NOT_DATA = new Set(['toString', 'valueOf', 'toJSON', 'then', 'constructor', 'prototype', '__proto__']);
/** Texts that begin with a dollar sign stand for something; alone in a call these can stand for anything. */
const STANDS_BY_ITSELF = /^\$(\$|undefined$|NaN$|-?Infinity$|-0$)/;
const DEEPEST = 20;

function isData(value: unknown, depth = 0): boolean {
  if (depth > DEEPEST) return false;
  if (typeof value === 'string') return !value.startsWith('$') || STANDS_BY_ITSELF.test(value);
  if (typeof value !== 'object' || value === null) return true;
  if (Array.isArray(value)) return value.every((one) => isData(one, depth + 1));
  return Object.entries(value).every(([name, one]) => !NOT_DATA.has(name) && isData(one, depth + 1));
}

/**
 * Is the text of a call a list of arguments, each of texts, numbers and what holds those?
 *
 * @example isArguments('["L1",{"body":"x"}]') // true
 * @example isArguments('["$F1"]') // false: it points to a part that a text does not have
 */
export function isArguments(text: string): boolean {
  try {
    const read: unknown = JSON.parse(text);
    return Array.isArray(read) && isData(read);
  } catch {
    return false;
  }
}

/**
 * Is what is sent to a page whole? A call of an action is a text or a form with its arguments; a form that is sent
 * before scripts have loaded names its action in a field of its own.
 */
export async function isWholeCall(request: Request): Promise<boolean> {
  const type = request.headers.get('content-type') ?? '';
  const isCall = request.headers.has('next-action');
  if (type.startsWith('multipart/form-data')) {
    return request.formData().then(
      (form) => !isCall || form.has('0'),
      () => false,
    );
  }
  return !isCall || (type.startsWith('text/plain') && isArguments(await request.text()));
}
