/** What somebody says that columns are, in place of what they were taken for. */
import type { Found } from './plan';
import { itemColumn } from './recognise';
import type { ColumnRole } from './roles';

/** By a column's place: what it is about, an item of its own, or nothing. */
export type RoleChoices = Readonly<Record<string, ColumnRole | 'item column' | 'nothing'>>;

/** A file as it was found, with some columns as somebody says. A role that two would have goes to the one that was said. */
export function withRoles(found: Found, choices: RoleChoices): Found {
  const { head, recognised } = found;
  const chosen = new Map(Object.entries(choices).map(([index, choice]) => [Number(index), choice]));
  const taken = new Set(chosen.values());
  const roles = recognised.roles.map((role, index) => {
    const choice = chosen.get(index);
    if (choice !== undefined) return choice === 'item column' || choice === 'nothing' ? null : choice;
    return role !== null && taken.has(role) ? null : role;
  });
  const known = new Map(recognised.items.map((item) => [item.index, item]));
  const items = head.heading.flatMap((_, index) => {
    const choice = chosen.get(index);
    if (choice === 'item column') return [known.get(index) ?? itemColumn(head, index)];
    return choice === undefined && known.has(index) ? [known.get(index)!] : [];
  });
  const leftOut = head.heading.flatMap((_, index) =>
    roles[index] === null && !items.some((item) => item.index === index)
      ? [recognised.leftOut.find((one) => one.index === index) ?? { index, why: 'not understood' as const }]
      : [],
  );
  return { ...found, recognised: { ...recognised, roles, items, leftOut } };
}
