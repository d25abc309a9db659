/** The small parts that statements are made of. */
import { dayFromDate } from '@/core/time/zone';

/** What is wrong with a value: where in it, and what would be right. */
export interface StatementFault {
  /** Such as `context.registration`. */
  path: string;
  reason: string;
}

export type Json = null | boolean | number | string | Json[] | { [name: string]: Json };
export type JsonObject = { [name: string]: Json };

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[1-8][0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/i;
const IRI = /^[a-z][a-z0-9+.-]*:[^\s<>"{}|\\^`]+$/i;
const LANGUAGE = /^(?:[a-z]{2,8}(?:-[a-z0-9]{1,8})*|[xi](?:-[a-z0-9]{1,8})+)$/i;
const DURATION =
  /^P(?:\d+(?:\.\d+)?W|(?=.)(?:\d+(?:\.\d+)?Y)?(?:\d+(?:\.\d+)?M)?(?:\d+(?:\.\d+)?D)?(?:T(?=.)(?:\d+(?:\.\d+)?H)?(?:\d+(?:\.\d+)?M)?(?:\d+(?:\.\d+)?S)?)?)$/;
const TIMESTAMP =
  /^\d{4}-(?:0[1-9]|1[0-2])-(?:0[1-9]|[12]\d|3[01])[T ](?:[01]\d|2[0-3]):[0-5]\d(?::(?:[0-5]\d|60)(?:\.\d+)?)?(?:Z|[+-](?:[01]\d|2[0-3]):?[0-5]\d)?$/i;
const SHA1 = /^[0-9a-f]{40}$/i;

export const isUuid = (value: Json): value is string => typeof value === 'string' && UUID.test(value);
export const isIri = (value: Json): value is string => typeof value === 'string' && IRI.test(value);
export const isMailto = (value: Json) => typeof value === 'string' && /^mailto:[^\s@]+@[^\s@]+$/i.test(value);
export const isSha1 = (value: Json) => typeof value === 'string' && SHA1.test(value);
export const isLanguage = (value: Json) => typeof value === 'string' && LANGUAGE.test(value);
export const isDuration = (value: Json) => typeof value === 'string' && DURATION.test(value);
export const isString = (value: Json): value is string => typeof value === 'string';
export const isBoolean = (value: Json) => typeof value === 'boolean';
export const isNumber = (value: Json): value is number => typeof value === 'number' && Number.isFinite(value);

/** An ISO 8601 instant that there is; the zero offset may not be written as a negative one. */
export function isTimestamp(value: Json): value is string {
  if (typeof value !== 'string' || !TIMESTAMP.test(value) || /-00:?00$/.test(value)) return false;
  return dayFromDate(value.slice(0, 10)) !== null && !Number.isNaN(instantOf(value));
}

/** Epoch ms of a timestamp; one without an offset is UTC. */
export function instantOf(value: string): number {
  const zoned = /(?:Z|[+-]\d{2}:?\d{2})$/i.test(value) ? value : `${value}Z`;
  return Date.parse(zoned.replace(' ', 'T').replace(/([+-]\d{2})(\d{2})$/, '$1:$2'));
}

export function isObject(value: Json | undefined): value is JsonObject {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** Checks one value at a path. */
export type Check = (value: Json, path: string) => StatementFault | null;

/** A check from a test and what would be right. */
export function must(test: (value: Json) => boolean, reason: string): Check {
  return (value, path) => (test(value) ? null : { path, reason });
}

interface Shape {
  /** Every property there may be, with its check. */
  may: Record<string, Check>;
  /** Those there must be. */
  must?: readonly string[];
}

/** Checks that a value is an object of these properties and no others. */
export function shape({ may, must: needed = [] }: Shape): Check {
  return (value, path) => {
    if (!isObject(value)) return { path, reason: 'is not an object' };
    for (const name of needed) if (!Object.hasOwn(value, name)) return { path: join(path, name), reason: 'is missing' };
    for (const [name, own] of Object.entries(value)) {
      const check = Object.hasOwn(may, name) ? may[name] : undefined;
      if (!check) return { path: join(path, name), reason: 'is no property of a statement' };
      if (own === null) return { path: join(path, name), reason: 'is null' };
      const fault = check(own, join(path, name));
      if (fault) return fault;
    }
    return null;
  };
}

/** Checks that a value is a list whose elements all pass. */
export function listOf(check: Check): Check {
  return (value, path) => {
    if (!Array.isArray(value)) return { path, reason: 'is not a list' };
    return firstFault(value.map((one, index) => () => check(one, `${path}[${index}]`)));
  };
}

/** Texts by language. */
export const languageMap: Check = (value, path) => {
  if (!isObject(value)) return { path, reason: 'is not a language map' };
  for (const [language, text] of Object.entries(value)) {
    if (!isLanguage(language)) return { path: join(path, language), reason: 'is not a language tag' };
    if (!isString(text)) return { path: join(path, language), reason: 'is not a text' };
  }
  return null;
};

/** Anything, under IRIs; the only place where null may stand. */
export const extensions: Check = (value, path) => {
  if (!isObject(value)) return { path, reason: 'is not an object' };
  const bad = Object.keys(value).find((key) => !isIri(key));
  return bad === undefined ? null : { path: join(path, bad), reason: 'is not an IRI' };
};

export function firstFault(checks: readonly (() => StatementFault | null)[]): StatementFault | null {
  for (const check of checks) {
    const fault = check();
    if (fault) return fault;
  }
  return null;
}

export function join(path: string, name: string): string {
  return path === '' ? name : `${path}.${name}`;
}
