/** Links of a list whose state lives in its address. */

type Params = Record<string, string | null | undefined>;

/** An address with these parameters, empty ones left out. */
export function linkTo(path: string, params: Params): string {
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries(params)) if (value) query.set(name, value);
  return query.size > 0 ? `${path}?${query}` : path;
}
