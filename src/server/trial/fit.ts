/** Weights fitted to one's own past, proposed to a person. */
import { DEFAULT_MODEL, FACTORS, weightOf } from '@/core/drift/model';
import { fitWeights, type FitResult } from '@/core/trial/fit';
import type { Viewer } from '@/data/scope';
import { readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';
import { CoursesInput, inTurns, loadCohorts, type LoadedCohort } from './cohorts';

export interface ProposedWeights extends FitResult {
  courses: string[];
  /** Names, and the weights there are by default, as shares of 100. */
  factors: { name: string; title: string; weight: number }[];
}

/**
 * Fits weights to finished courses: proposed, refused or not worth it, with the reason. Nothing is changed.
 * @throws InvalidInput, NotFound for all but leads
 */
export async function proposeWeights(
  runtime: Runtime,
  viewer: Viewer,
  values: Values,
  step: () => Promise<void> = async () => undefined,
): Promise<ProposedWeights> {
  requireLead(viewer);
  const { course } = readInput(CoursesInput, values);
  const goOn = inTurns(step);
  return fitOn(await loadCohorts(runtime, course, goOn), goOn);
}

/** Fits weights to finished courses that were read. */
export async function fitOn(cohorts: readonly LoadedCohort[], step: () => Promise<void>): Promise<ProposedWeights> {
  const factors = FACTORS.map((factor) => ({
    name: factor.name,
    title: factor.title,
    weight: weightOf(DEFAULT_MODEL, factor).early,
  }));
  const found = await fitWeights(
    cohorts,
    factors.map(({ weight }) => weight),
    step,
  );
  return { ...found, courses: cohorts.map(({ code }) => code), factors };
}

const rounded = (value: number, digits: number) => Number(value.toFixed(digits));

/** A fit as the shell gives it to programs. */
export function fitAsJson({ courses, leavers, weights, gain, areas, isProposed, says, factors }: ProposedWeights) {
  return {
    courses,
    leavers,
    proposed: isProposed,
    says,
    gain: gain && { value: rounded(gain.value, 4), error: rounded(gain.error, 4) },
    auc: areas && { defaults: rounded(areas.defaults, 4), fitted: rounded(areas.fitted, 4) },
    weights: factors.map(({ name, weight }, index) => ({
      factor: name,
      default: weight,
      fitted: weights && rounded(weights[index], 1),
    })),
  };
}

/** The same for a reader of a shell. */
export function fitAsText(found: ProposedWeights): string {
  const { courses, leavers, weights, says, factors } = found;
  return [
    `${courses.join(', ') || 'no finished course'}: ${leavers} leavers`,
    says,
    ...(weights === null
      ? []
      : factors.map(({ title, weight }, index) => `  ${title}: ${weights[index].toFixed(1)}, by default ${weight}`)),
  ].join('\n');
}
