/** What a statement says of a result, in our terms. */
import { lastPart } from './read';
import { isObject, type JsonObject } from './values';

export interface SaidResult {
  /** The word of the verb. */
  verb: string;
  score: number | null;
  /** Points that were to be had; null where only the item can say. */
  points: number | null;
  /** A score that is only a share, 0–1 or more; null otherwise. */
  scaled: number | null;
  /** Share gone through, 0–1; null where it does not say. */
  progress: number | null;
  success: boolean | null;
  completion: boolean | null;
  durationMs: number | null;
  response: string | null;
  /** The right answer of a question, where its definition has one. */
  rightAnswer: string | null;
  /** What a question is called. */
  name: string | null;
  registration: string | null;
  /** The statement that this one answers, by its id. */
  answers: string | null;
}

/** Ends of the IRIs under which senders put how far somebody has got. */
const PROGRESS = ['progress', 'played-segments-progress', 'completion-percentage'];

const number = (value: unknown): number | null => (typeof value === 'number' && Number.isFinite(value) ? value : null);
const bool = (value: unknown): boolean | null => (typeof value === 'boolean' ? value : null);

const DURATION =
  /^P(?:(\d+(?:\.\d+)?)W)?(?:(\d+(?:\.\d+)?)D)?(?:T(?:(\d+(?:\.\d+)?)H)?(?:(\d+(?:\.\d+)?)M)?(?:(\d+(?:\.\d+)?)S)?)?$/;

/** Ms of an ISO 8601 duration; null for one with years or months, whose length nobody knows. */
function durationOf(value: unknown): number | null {
  const found = typeof value === 'string' ? DURATION.exec(value) : null;
  if (!found) return null;
  const [weeks, days, hours, minutes, seconds] = found.slice(1).map((part) => Number(part ?? 0));
  return Math.round(((((weeks * 7 + days) * 24 + hours) * 60 + minutes) * 60 + seconds) * 1000);
}

/** A share from 0 to 1, given as such or in per cent. */
function shareOf(value: unknown): number | null {
  const given = number(value);
  if (given === null || given < 0) return null;
  return Math.min(1, given > 1 ? given / 100 : given);
}

function scoreOf(score: JsonObject): Pick<SaidResult, 'score' | 'points' | 'scaled'> {
  const [raw, min, max, scaled] = [score.raw, score.min, score.max, score.scaled].map(number);
  const from = min ?? 0;
  if (raw !== null) {
    // What lies below the least there is counts as nothing.
    const points = max !== null && max > from ? max - from : null;
    return { score: Math.max(0, raw - from), points, scaled: null };
  }
  return { score: null, points: null, scaled: scaled === null ? null : Math.max(0, scaled) };
}

/** The first text of a language map. */
function firstText(value: unknown): string | null {
  if (!isObject(value as never)) return null;
  const [text] = Object.values(value as Record<string, unknown>);
  return typeof text === 'string' ? text : null;
}

/** The id of a statement that another refers to. */
function statementIn(value: unknown): string | null {
  if (!isObject(value as never)) return null;
  const { objectType, id } = value as JsonObject;
  return objectType === 'StatementRef' && typeof id === 'string' ? id.toLowerCase() : null;
}

/** Reads what a well-formed statement says of a result. */
export function readResult(statement: JsonObject): SaidResult {
  const result = isObject(statement.result) ? statement.result : {};
  const context = isObject(statement.context) ? statement.context : {};
  const object = statement.object as JsonObject;
  const definition = isObject(object.definition) ? object.definition : {};
  const extensions = isObject(result.extensions) ? result.extensions : {};
  const progress = Object.entries(extensions).find(([iri]) => PROGRESS.includes(lastPart(iri).toLowerCase()));
  const right = Array.isArray(definition.correctResponsesPattern) ? definition.correctResponsesPattern[0] : null;
  const { id } = statement.verb as JsonObject;
  return {
    verb: lastPart(String(id)).trim().toLowerCase(),
    ...(isObject(result.score) ? scoreOf(result.score) : { score: null, points: null, scaled: null }),
    progress: progress ? shareOf(progress[1]) : null,
    success: bool(result.success),
    completion: bool(result.completion),
    durationMs: durationOf(result.duration),
    response: typeof result.response === 'string' ? result.response : null,
    rightAnswer: typeof right === 'string' ? right : null,
    name: firstText(definition.name) ?? firstText(definition.description),
    answers: statementIn(context.statement),
    registration: typeof context.registration === 'string' ? context.registration.toLowerCase() : null,
  };
}
