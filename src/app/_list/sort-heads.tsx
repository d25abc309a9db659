import type { Params } from '@/server/request/list';
import { SortHead } from './sort-head';

interface Props {
  /** Each head with what the list is sorted by under it. */
  heads: readonly (readonly [title: string, sort: string])[];
  /** The order where nobody has asked for another. */
  usual: string;
  path: string;
  params: Params;
  className: string;
}

/** The heads of a table that is sorted by any of them: names upwards first, figures downwards. */
export function SortHeads({ heads, usual, path, params, className }: Props) {
  return (
    <tr>
      {heads.map(([title, sort]) => (
        <th key={title} scope="col">
          <SortHead
            title={title}
            sort={sort}
            first={sort === 'name' ? sort : `-${sort}`}
            usual={usual}
            path={path}
            params={params}
            className={className}
          />
        </th>
      ))}
    </tr>
  );
}
