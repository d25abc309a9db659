/** A heading with case, outer spaces and the choice of space, hyphen or underscore evened out. */
export function foldHeading(text: string): string {
  return text
    .trim()
    .toLowerCase()
    .replace(/[\s-]+/g, '_');
}
