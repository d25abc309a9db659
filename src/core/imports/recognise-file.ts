/** What a file is: one of our own kinds by its headings, or another system's by what stands in it. */
import { courseNamed, isForeignKind, lookAt, meetingOf, type Found, type Plan } from './foreign/plan';
import { foldWord } from './foreign/words';
import { foldHeading } from './heading-name';
import { FILE_KIND_NAMES, columnsOfKind, type FileKindName } from './kinds';
import { dateOrderOf, proposeMapping, type Mapping, type Proposal } from './mapping';

export interface LikelyKind {
  kind: FileKindName;
  /** 0 to 1. */
  sure: number;
}

/** What a file was taken for, and what else it could be. */
export type Recognition = { kinds: LikelyKind[] } & (
  { how: 'ours'; mapping: Proposal | null } | { how: 'foreign'; found: Found } | { how: 'unknown' }
);

/** A heading that has every column that a kind needs, by our own names, and few others. */
function ownKinds(heading: readonly string[]): LikelyKind[] {
  const folded = heading.map(foldHeading);
  return FILE_KIND_NAMES.flatMap((kind) => {
    const columns = columnsOfKind(kind);
    const known = folded.filter((name) => columns.has(name)).length;
    const isWhole = [...columns].every(([name, { isNeeded }]) => !isNeeded || folded.includes(name));
    // A platform's own lists need little: without more of them than that, it is any list of people.
    const isPlain = (kind === 'participants' || kind === 'completion' || kind === 'gradebook') && known < 4;
    const isTwice = new Set(folded).size < folded.length;
    // How long somebody stayed is no column of ours, and says when they left.
    const isByLength = kind === 'presence' && (folded.includes('minutes') || folded.includes('duration'));
    return isWhole && !isPlain && !isTwice && !isByLength && known >= folded.length / 2
      ? [{ kind, sure: 1, known: known + known / columns.size }]
      : [];
  })
    .sort((a, b) => b.known - a.known)
    .map(({ kind, sure }) => ({ kind, sure }));
}

/** Kinds that other systems have by other headings, and that are not read in any other way. */
const MAPPED: readonly FileKindName[] = [
  'outline',
  'roster',
  'staff',
  'sessions',
  'marks',
  'responses',
  'extensions',
  'contacts',
  'posts',
  'survey-answers',
];

/** Our kinds that a heading fits by likely words for every column that is needed. */
function mappedKinds(
  heading: readonly string[],
  rows: readonly (readonly string[])[],
): (LikelyKind & { mapping: Proposal })[] {
  return MAPPED.flatMap((kind) => {
    const { columns, dates } = proposeMapping(kind, heading, rows);
    const taken = Object.values(columns).filter((name) => name !== null);
    const needed = [...columnsOfKind(kind)].filter(([, { isNeeded }]) => isNeeded);
    if (!needed.every(([name]) => taken.includes(name))) return [];
    return [{ kind, sure: Math.round((60 * taken.length) / heading.length) / 100, mapping: { columns, dates } }];
  }).sort((a, b) => b.sure - a.sure);
}

/**
 * Says what a file is by its first rows.
 *
 * @param rows without blank ones
 * @param asked what somebody has said it is; null to find out
 */
export function recogniseFile(
  rows: readonly (readonly string[])[],
  delimiter: string,
  asked: FileKindName | null = null,
): Recognition {
  if (rows.length === 0) return { kinds: [], how: 'unknown' };
  const own = ownKinds(rows[0]).filter(({ kind }) => asked === null || kind === asked);
  if (own.length > 0) return { kinds: own, how: 'ours', mapping: null };
  const mapped = mappedKinds(rows[0], rows.slice(1, 200)).filter(({ kind }) => asked === null || kind === asked);
  const found = lookAt(rows, delimiter, asked !== null && isForeignKind(asked) ? asked : null);
  const foreign: LikelyKind[] =
    found === null ? [] : [found.recognised, ...found.recognised.others].map(({ kind, sure }) => ({ kind, sure }));
  const others = mapped.map(({ kind, sure }) => ({ kind, sure }));
  const isList =
    found?.recognised.kind === 'participants' &&
    !found.recognised.roles.some((role) => role !== null && TELLS_MORE.includes(role));
  const best = mapped[0];
  if (best && asked === best.kind) return { kinds: [...others, ...foreign], how: 'ours', mapping: best.mapping };
  // A list of people alone is a roster where it has all that a roster needs.
  if (best && (found === null || (isList && best.kind === 'roster') || found.recognised.sure < best.sure - 0.1))
    return { kinds: [...others, ...foreign], how: 'ours', mapping: best.mapping };
  if (found !== null && (asked === null || (asked !== null && isForeignKind(asked))))
    return { kinds: [...foreign, ...others], how: 'foreign', found };
  return { kinds: [...foreign, ...others], how: 'unknown' };
}

/** How a file of one of our own kinds is read. */
export interface OwnReading {
  /** Which column is which; null where its headings are ours. */
  mapping: Proposal | null;
  /** Our columns that every row needs and none of its is. */
  lacks: string[];
}

/**
 * How a file of one of our kinds is read: by its headings where they are ours, else by the columns that fit best, and by what
 * somebody has said of them. A column of ours that two would be goes to the one that was said.
 *
 * @param rows the first rows of the file, with its heading
 * @param said our column for a heading (folded), or null for none
 */
export function readAsOwn(
  kind: FileKindName,
  recognition: Recognition,
  [heading = [], ...rows]: readonly (readonly string[])[],
  said: Mapping['columns'] = {},
): OwnReading {
  const isOwn = recognition.how === 'ours' && recognition.kinds[0].kind === kind;
  if (isOwn && recognition.mapping === null && Object.keys(said).length === 0) return { mapping: null, lacks: [] };
  const proposal =
    isOwn && recognition.mapping !== null ? recognition.mapping : proposeMapping(kind, heading, rows.slice(0, 200));
  const taken = new Set(Object.values(said).filter((name) => name !== null));
  const columns = Object.fromEntries(
    Object.entries(proposal.columns).map(([name, ours]) => [
      name,
      name in said ? said[name] : ours !== null && taken.has(ours) ? null : ours,
    ]),
  );
  const used = Object.values(columns);
  const lacks = [...columnsOfKind(kind)].flatMap(([name, { isNeeded }]) =>
    isNeeded && !used.includes(name) ? [name] : [],
  );
  const times = heading.flatMap((name, index) => {
    const ours = columns[foldHeading(name)];
    return ours && columnsOfKind(kind).get(ours)?.isTime
      ? rows.slice(0, 200).map((row) => (row[index] ?? '').trim())
      : [];
  });
  return { mapping: { columns, dates: dateOrderOf(times) }, lacks };
}

/** What makes a list of people more than a roster. */
const TELLS_MORE: readonly string[] = ['last_access', 'progress', 'minutes'];

/** What somebody says of a file beside what it says itself. */
export interface SaidOfFile {
  course?: string | null;
  session?: string | null;
  madeAt: number;
  create: boolean;
  dates?: Plan['dates'] | null;
  itemsSaid?: Plan['itemsSaid'];
}

/** What has to be said before a file can be taken. */
export type Missing = 'course' | 'dates' | 'session';

/** How a file of another system is read, and what has to be said before. */
export function planOf(
  { head, recognised, delimiter, dates }: Found,
  said: SaidOfFile,
): { plan: Plan; missing: Missing[] } {
  const { kind, roles } = recognised;
  const meeting = meetingOf(head);
  const course = said.course || courseNamed(head);
  const missing: Missing[] = [];
  const isByRow = roles.includes('course');
  if (course === null && !isByRow && kind !== 'presence') missing.push('course');
  if ((said.dates ?? dates) === null) missing.push('dates');
  if (
    kind === 'presence' &&
    !said.session &&
    meeting.startsAt === null &&
    !roles.includes('session') &&
    !roles.includes('entered')
  )
    missing.push('session');
  const used = new Map<string, number>();
  const items = recognised.items.map((item) => {
    const folded = foldWord(item.title);
    const count = (used.get(folded) ?? 0) + 1;
    used.set(folded, count);
    // A title that stands twice is two items, which are told apart by their order.
    return count === 1 ? item : { ...item, title: `${item.title} (${count})` };
  });
  const plan: Plan = {
    kind,
    delimiter,
    heading: head.heading,
    bodyFrom: head.bodyFrom,
    roles,
    items,
    dates: said.dates ?? dates ?? 'iso',
    madeAt: said.madeAt,
    course: course ?? null,
    create: said.create,
    meeting: kind === 'presence' ? { sessionId: said.session || null, ...meeting } : null,
    ...(recognised.isShare && { isShare: true }),
    ...(said.itemsSaid && { itemsSaid: said.itemsSaid }),
  };
  return { plan, missing };
}
