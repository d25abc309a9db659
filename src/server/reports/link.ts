/** A report as a link: what is being chosen lives in the address, so that it can be gone back to and sent to a colleague. */
import type { ReportDefinition } from '@/core/reports/definition';
import { without } from '@/core/without';
import { LEARNERS } from '../people/learner-list';
import type { Values } from '../request/input';
import { listParams, type Params } from '../request/list';
import { segmentNames } from '../request/segment-names';
import { columnNamed, fits, mayBeFor } from './columns';

/** Parameters of the link that are the report's own; the others are those of the list of learners. */
export const REPORT_PARAMS = [
  'report',
  'per',
  'cols',
  'items',
  'days',
  'from',
  'to',
  'avg',
  'only',
  'for',
  'rows',
  'learners',
] as const;

/** What is no filter among the parameters of a list. */
const OF_THE_LIST = ['in', 'as_of', 'limit', 'columns', 'fold'] as const;

/** The filters of learners in a link, with their order. */
export function filterOf(params: Params): Record<string, string> {
  const own = without(listParams(LEARNERS, params), ...OF_THE_LIST);
  return Object.fromEntries(Object.entries(own).filter((pair): pair is [string, string] => Boolean(pair[1])));
}

/** The link's parameters of a report. */
export function paramsOf(definition: ReportDefinition, report?: number | string): Params {
  const { whose, per, columns, items, period, from, to, averages, only } = definition;
  const [kind] = (['group', 'course', 'organisation', 'caseload'] as const).filter((part) => whose[part] !== undefined);
  // A group is written with its course; beside a course's name alone it is put together.
  const group = whose.group?.includes('/') ? whose.group : `${whose.course}/${whose.group}`;
  const place = kind === undefined ? undefined : `${kind}:${kind === 'group' ? group : whose[kind]}`;
  const more = Object.fromEntries(
    (['organisation', 'caseload'] as const)
      .filter((part) => part !== kind && whose[part] !== undefined)
      .map((part) => [part, whose[part]]),
  );
  return {
    ...whose.filter,
    ...more,
    in: place,
    report: report === undefined ? undefined : String(report),
    per,
    cols: columns.join(','),
    items: items?.map(encodeURIComponent).join(','),
    days: period,
    from,
    to,
    avg: averages,
    only,
    for: definition.for,
  };
}

/** An item's id or a category's name, which may have a comma in it. */
function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

/** What a link chooses, as it is read by `readDefinition`; what does not fit with the rest is left out and said. */
export function chosenOf(params: Params): { values: Values; left: string[] } {
  const per = (params.per ?? 'enrolment') as ReportDefinition['per'];
  const audience = params.for === 'outside' ? 'outside' : 'staff';
  const items = (params.items ?? '').split(',').filter(Boolean).map(decoded);
  const named = (params.cols ?? '').split(',').filter(Boolean);
  const left: string[] = [];
  const columns = named.filter((name) => {
    const column = columnNamed(name);
    if (!column) return false;
    if (!mayBeFor(audience, column)) left.push(`${column.title} may not leave the staff`);
    else if (!fits(per, column)) left.push(`${column.title} is not of such rows`);
    else if (column.each && items.length === 0) left.push(`${column.title} needs items to be chosen`);
    else return true;
    return false;
  });
  const filter = filterOf(params);
  return {
    left,
    values: {
      whose: {
        ...segmentNames(params.in),
        ...(Object.keys(filter).length > 0 && { filter }),
        ...(params.learners && { learners: params.learners.split(',').map(decoded) }),
      },
      per,
      columns,
      ...(items.length > 0 && { items }),
      from: params.from,
      to: params.to,
      period: params.days,
      averages: params.avg,
      only: params.only,
      for: audience,
    },
  };
}
