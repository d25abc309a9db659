/** What was settled of files, remembered by their headings. */
import type { Db } from '../db';

/** What was settled of a shape, as JSON, newest use first; those of the source itself before others. */
async function shapes(db: Db, source: string): Promise<{ shape: string; spec: string }[]> {
  return db('import_plan').orderByRaw('source = ? DESC, used_at DESC', [source]).select('shape', 'spec');
}

export async function rememberShape(db: Db, source: string, shape: string, spec: object, at: number): Promise<void> {
  await db('import_plan')
    .insert({ source, shape, spec: JSON.stringify(spec), used_at: at })
    .onConflict(['source', 'shape'])
    .merge();
}

export interface RememberedShape {
  source: string;
  /** Headings, folded, as JSON: what the shape is known by. */
  shape: string;
  spec: string;
  usedAt: number;
}

/** Every shape that was settled, the last used first. */
export async function listShapes(db: Db): Promise<RememberedShape[]> {
  return db('import_plan').orderBy('used_at', 'desc').select('source', 'shape', 'spec', 'used_at as usedAt');
}

/** Forgets what was settled of a shape. Returns whether anything was. */
export async function forgetShape(db: Db, source: string, shape: string): Promise<boolean> {
  return (await db('import_plan').where({ source, shape }).delete()) > 0;
}

/** What was settled of files with the same headings; null for none. */
export async function findShape<T>(db: Db, source: string, shape: string): Promise<T | null> {
  const found = (await shapes(db, source)).find((known) => known.shape === shape);
  return found ? (JSON.parse(found.spec) as T) : null;
}

/** How headings differ from the likest that are known, where at most a few do; null where none is like them. */
export async function nearestShape(
  db: Db,
  source: string,
  shape: string,
): Promise<{ added: string[]; missing: string[] } | null> {
  const heading: string[] = JSON.parse(shape);
  const differences = (await shapes(db, source)).map(({ shape: known }) => {
    const before: string[] = JSON.parse(known);
    return {
      added: heading.filter((name) => !before.includes(name)),
      missing: before.filter((name) => !heading.includes(name)),
    };
  });
  const size = ({ added, missing }: { added: string[]; missing: string[] }) => added.length + missing.length;
  const [nearest] = differences.sort((a, b) => size(a) - size(b));
  return nearest && size(nearest) <= Math.max(2, heading.length / 3) ? nearest : null;
}
