/**
 * An object without some of its fields.
 *
 * @example without({ quiet: '7', limit: '10' }, 'limit') // { quiet: '7' }
 */
export function without<T extends object, K extends string>(object: T, ...names: readonly K[]): Omit<T, K> {
  return Object.fromEntries(Object.entries(object).filter(([name]) => !names.includes(name as K))) as Omit<T, K>;
}
