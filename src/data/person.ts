/**
 * How people are named in what a viewer reads: as they are, or by stable stand-ins while the
 * viewer has names hidden. Whoever selects a name, id, e-mail, phone or free text takes the
 * SQL for it from here, so there is no second place that could let a real one through.
 */
import { wordsOnly, type Viewer } from './scope';

export interface PersonColumns {
  id: string;
  given: string;
  family: string;
  name: string;
  email: string;
  phone: string;
  /** What they are sorted by, and what is looked through for them: without accents and capitals. */
  sort: string;
  find: string;
}

/** What stands for any text that somebody typed, which may hold any name. */
export const HIDDEN_TEXT = '(text hidden)';

/** SQL of a learner's identifying columns, for the table alias given. */
export function personColumns(viewer: Viewer, alias = 'learner'): PersonColumns {
  if (viewer.standInKey === null) {
    const [given, family] = [`${alias}.given_name`, `${alias}.family_name`];
    return {
      id: `${alias}.external_id`,
      given,
      family,
      name: `trim(${given} || ' ' || ${family})`,
      email: `${alias}.email`,
      phone: `${alias}.phone`,
      sort: `${alias}.sort_key`,
      find: `${alias}.find_key`,
    };
  }
  const call = (what: string) => `stand_in_${what}(${literal(viewer.standInKey!)}, ${alias}.id)`;
  const kept = (what: string, column: string) =>
    `CASE WHEN ${alias}.${column} IS NULL THEN NULL ELSE ${call(what)} END`;
  const [email, phone] = [kept('email', 'email'), kept('phone', 'phone')];
  return {
    id: call('id'),
    given: call('given'),
    family: call('family'),
    name: `${call('given')} || ' ' || ${call('family')}`,
    email,
    phone,
    sort: `fold_text(${call('family')} || ' ' || ${call('given')})`,
    find: `fold_text(${call('given')} || ' ' || ${call('family')} || ' ' || ${call('id')} || ' ' || ifnull(${email}, '') || ' ' || ifnull(${phone}, ''))`,
  };
}

/** SQL of a staff member's name. */
export function staffName(viewer: Viewer, alias = 'staff'): string {
  return viewer.standInKey === null
    ? `trim(${alias}.given_name || ' ' || ${alias}.family_name)`
    : `CASE WHEN ${alias}.id IS NULL THEN NULL ELSE 'Staff ' || ${alias}.id END`;
}

/** SQL of a staff member's e-mail address or id. */
export function staffColumn(viewer: Viewer, column: 'email' | 'external_id', alias = 'staff'): string {
  if (viewer.standInKey === null) return `${alias}.${column}`;
  return column === 'email' ? `'staff-' || ${alias}.id || '@hidden.example'` : `'S-' || ${alias}.id`;
}

/** SQL of free text. */
export function freeText(viewer: Viewer, column: string): string {
  return viewer.standInKey === null
    ? column
    : `CASE WHEN ${column} IS NULL OR ${column} = '' THEN ${column} ELSE ${literal(HIDDEN_TEXT)} END`;
}

/**
 * SQL of what a member of staff wrote of a learner for colleagues: remarks, reasons, notes, what was said. Staff read
 * one another's, a partner's contact their own alone (see `wordsOnly`), and nobody any while names are hidden. What
 * the learner is given to read (a grade, the feedback on it) is `freeText`.
 * @param staffColumn of the id of the member of staff whose words they are
 */
export function staffWords(viewer: Viewer, staffColumn: string, column: string, otherwise = "''"): string {
  return wordsOnly(viewer, staffColumn, `ifnull(${freeText(viewer, column)}, '')`, otherwise);
}

function literal(text: string): string {
  return `'${text.replaceAll("'", "''")}'`;
}
