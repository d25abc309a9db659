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
