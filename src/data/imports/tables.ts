/** Tables of files that came. */
import type { FileKindName } from '@/core/imports/kinds';
import { integer, orNull, text, type TableColumns } from '../column';

export const IMPORTS_TABLES = {
  import_run: {
    id: integer(),
    kind: text<FileKindName>(),
    source: text(),
    timezone: text(),
    file_name: text(),
    path: text(),
    size: integer(),
    state: text(),
    read: integer(),
    accepted: integer(),
    duplicate: integer(),
    rejected: integer(),
    unmatched: integer(),
    bytes_done: integer(),
    rejects_bytes: integer(),
    unknown_columns: text(),
    error: orNull(text()),
    staff_id: orNull(integer()),
    created_at: integer(),
    finished_at: orNull(integer()),
    owner: orNull(text()),
    lease_until: integer(),
    mapping: orNull(text()),
    session: orNull(text()),
    part: orNull(text()),
    notes: text(),
    tries: integer(),
    importer_state: orNull(text()),
    derived: orNull(integer()),
    to_derive: orNull(integer()),
  },
  mapping: {
    source: text(),
    kind: text<FileKindName>(),
    spec: text(),
  },
} as const satisfies TableColumns;
