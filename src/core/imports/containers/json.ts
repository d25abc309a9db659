/** Tables that are kept as JSON: a list of objects, under a name or not, or an object a line. */

/** A value as a cell's text; what is nested keeps its own notation. */
function cellOf(value: unknown): string {
  if (value === null || value === undefined) return '';
  return typeof value === 'object' ? JSON.stringify(value) : String(value);
}

/**
 * An object's fields by name, those of an object within it by both names.
 * @example flatten({ actor: { name: 'Ines' } }) // Map { 'actor name' => 'Ines' }
 */
export function flatten(object: object): Map<string, string> {
  const fields = new Map<string, string>();
  for (const [name, value] of Object.entries(object)) {
    if (value !== null && typeof value === 'object' && !Array.isArray(value))
      for (const [inner, innerValue] of Object.entries(value)) fields.set(`${name} ${inner}`, cellOf(innerValue));
    else fields.set(name, cellOf(value));
  }
  return fields;
}

/** The list of objects that a JSON text holds: itself, or the first one under a name. @returns null where there is none */
export function listIn(parsed: unknown): object[] | null {
  const isList = (value: unknown): value is object[] =>
    Array.isArray(value) &&
    value.length > 0 &&
    value.every((one) => one !== null && typeof one === 'object' && !Array.isArray(one));
  if (isList(parsed)) return parsed;
  if (parsed === null || typeof parsed !== 'object') return null;
  return Object.values(parsed).find(isList) ?? null;
}
