/** Statements as a client asks for them: exact, with ids alone, or in one language. */
import { isObject, type Json, type JsonObject } from './values';

export const STATEMENT_FORMATS = ['exact', 'ids', 'canonical'] as const;
export type StatementFormat = (typeof STATEMENT_FORMATS)[number];

const IDENTIFIERS = ['objectType', 'mbox', 'mbox_sha1sum', 'openid', 'account', 'id'];

/** A statement in the format asked for. `languages` are those preferred, the most preferred first. */
export function formatStatement(
  statement: JsonObject,
  format: StatementFormat,
  languages: readonly string[] = [],
): JsonObject {
  if (format === 'ids') return withIds(statement);
  return format === 'canonical' ? (inLanguage(statement, languages) as JsonObject) : statement;
}

function idsOf(value: Json | undefined): Json {
  if (!isObject(value)) return value ?? null;
  if (value.objectType === 'SubStatement') return withIds(value);
  const anonymous = value.objectType === 'Group' && !IDENTIFIERS.slice(1, 5).some((name) => Object.hasOwn(value, name));
  const kept = Object.entries(value).filter(([name]) => IDENTIFIERS.includes(name));
  return {
    ...Object.fromEntries(kept),
    ...(anonymous && Array.isArray(value.member) ? { member: value.member.map(idsOf) } : {}),
  };
}

function withIds(statement: JsonObject): JsonObject {
  const context = isObject(statement.context) ? statement.context : undefined;
  const around = isObject(context?.contextActivities) ? context.contextActivities : undefined;
  return {
    ...statement,
    actor: idsOf(statement.actor),
    verb: { id: (statement.verb as JsonObject).id },
    object: idsOf(statement.object),
    ...(isObject(statement.authority) ? { authority: idsOf(statement.authority) } : {}),
    ...(context
      ? {
          context: {
            ...context,
            ...(context.instructor ? { instructor: idsOf(context.instructor) } : {}),
            ...(context.team ? { team: idsOf(context.team) } : {}),
            ...(around
              ? {
                  contextActivities: Object.fromEntries(
                    Object.entries(around).map(([name, own]) => [
                      name,
                      Array.isArray(own) ? own.map(idsOf) : idsOf(own),
                    ]),
                  ),
                }
              : {}),
          },
        }
      : {}),
  };
}

const LANGUAGE_MAPS = ['display', 'name', 'description'];

/** Every language map cut to the best language; extensions stay as they are. */
function inLanguage(value: Json, languages: readonly string[]): Json {
  if (Array.isArray(value)) return value.map((one) => inLanguage(one, languages));
  if (!isObject(value)) return value;
  return Object.fromEntries(
    Object.entries(value).map(([name, own]) => {
      if (name === 'extensions') return [name, own];
      if (LANGUAGE_MAPS.includes(name) && isObject(own)) return [name, bestOf(own, languages)];
      return [name, inLanguage(own, languages)];
    }),
  );
}

function bestOf(map: JsonObject, languages: readonly string[]): JsonObject {
  const keys = Object.keys(map);
  if (keys.length === 0) return map;
  const lower = (text: string) => text.toLowerCase();
  for (const wanted of languages.map(lower)) {
    const exact =
      keys.find((key) => lower(key) === wanted) ??
      keys.find((key) => lower(key).split('-')[0] === wanted.split('-')[0]);
    if (exact) return { [exact]: map[exact] };
  }
  return { [keys[0]]: map[keys[0]] };
}

/** The languages of an Accept-Language header, the most preferred first. */
export function acceptedLanguages(header: string | null): string[] {
  return (header ?? '')
    .split(',')
    .map((part) => {
      const [tag, ...rest] = part.trim().split(';');
      const q = Number(
        rest
          .find((one) => one.trim().startsWith('q='))
          ?.trim()
          .slice(2) ?? 1,
      );
      return { tag: tag.trim(), q: Number.isNaN(q) ? 0 : q };
    })
    .filter(({ tag, q }) => tag !== '' && tag !== '*' && q > 0)
    .sort((a, b) => b.q - a.q)
    .map(({ tag }) => tag);
}
