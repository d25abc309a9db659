/** The part of what somebody sees, as an address and a call name it. */
/** What a part of what somebody sees may be. */
const PARTS = ['course', 'group', 'organisation', 'caseload'] as const;

export interface SegmentNames {
  course?: string;
  group?: string;
  organisation?: string;
  /** One's own or a shared caseload, by its number or its name. */
  caseload?: string;
}

/** The segment names behind `course:DRY`, `group:DRY/A`, `organisation:Name` or `caseload:7`. */
export function segmentNames(key: string | undefined): SegmentNames {
  if (!key) return {};
  const at = key.indexOf(':');
  const [kind, name] = [key.slice(0, at), key.slice(at + 1)];
  return (PARTS as readonly string[]).includes(kind) ? { [kind]: name } : {};
}
