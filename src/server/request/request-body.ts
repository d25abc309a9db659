import { InvalidInput } from './input';

/** A request's body up to a size; null for one that is larger, without reading its rest. */
export async function readBody(body: ReadableStream<Uint8Array> | null, most: number): Promise<Buffer | null> {
  const chunks: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of (body ?? []) as AsyncIterable<Uint8Array>) {
    size += chunk.length;
    if (size > most) return null;
    chunks.push(chunk);
  }
  return Buffer.concat(chunks);
}

/** A request's body as JSON. @returns null for one that is larger than it may be. @throws InvalidInput for what is none */
export async function readJson(
  body: ReadableStream<Uint8Array> | null,
  most: number,
): Promise<{ json: unknown } | null> {
  const bytes = await readBody(body, most);
  if (bytes === null) return null;
  try {
    return { json: JSON.parse(bytes.toString('utf8')) };
  } catch {
    throw new InvalidInput([{ field: 'body', message: 'is not JSON' }]);
  }
}

/** Most that a form of another service may hold, in bytes: a token with a few hundred roles. */
const FORM_MOST = 200_000;

/** A request's body as a form, such as a browser posts. @throws InvalidInput for one that is too large */
export async function readForm(request: Request): Promise<URLSearchParams> {
  const bytes = await readBody(request.body, FORM_MOST);
  if (bytes === null) throw new InvalidInput([{ field: 'body', message: 'is larger than 200 KB' }]);
  return new URLSearchParams(bytes.toString('utf8'));
}
