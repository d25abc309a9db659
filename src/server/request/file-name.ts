/** Names of files. */

/** A name as a file may have it anywhere. */
export function fileName(name: string): string {
  const plain = name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .replace(/[^A-Za-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .toLowerCase();
  return plain.slice(0, 60) || 'report';
}
