/** Taking contacts: the people around learners, each known by their name. */
import { foldText } from '@/core/people/fold';
import { checked, fault, given, orNull, upsert } from '../imports/rows';
import type { OpenImporter } from '../imports/importer';

export const openContactsImporter: OpenImporter = (raw, context) => {
  const find = raw.prepare('SELECT ifnull(merged_into, id) FROM learner WHERE external_id = ?').pluck();
  const stored = raw.prepare('SELECT name FROM learner_contact WHERE learner_id = ?').pluck();
  // Since when they may receive reports: since a file first said so.
  const noteAllowed = raw.prepare(
    `UPDATE learner_contact SET allowed_at = CASE may_receive WHEN 1 THEN ifnull(allowed_at, ?) END,
       allowed_words = CASE may_receive WHEN 1 THEN CASE allowed_words WHEN '' THEN 'by a file' ELSE allowed_words END ELSE '' END
     WHERE learner_id = ? AND name = ?`,
  );
  return checked(context, (row) => {
    const learner = find.get(row.learner_id) as number | undefined;
    if (learner === undefined)
      return fault('learner_id', `there is no learner ${row.learner_id}: bring in the roster first`);
    // The same name in other letters is the same person.
    const folded = foldText(row.name);
    const name = (stored.all(learner) as string[]).find((known) => foldText(known) === folded) ?? row.name;
    const { changed } = upsert(
      raw,
      'learner_contact',
      { learner_id: learner, name },
      given({
        relation: row.relation,
        email: orNull(row.email),
        phone: orNull(row.phone),
        may_receive: row.may_receive === undefined ? undefined : Number(row.may_receive === 'yes'),
      }),
    );
    if (changed) noteAllowed.run(context.now, learner, name);
    return changed ? 'accepted' : 'duplicate';
  });
};
