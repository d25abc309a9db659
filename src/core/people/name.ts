/** Given and family name in one; either may be empty. */
export function fullName(person: { given_name: string; family_name: string }): string {
  return `${person.given_name} ${person.family_name}`.trim();
}
