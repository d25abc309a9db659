import { TableTh, TableThead, TableTr } from '@mantine/core';

interface Props {
  of: readonly string[];
  /** What the last column does, read out but not shown: one of buttons needs no heading. */
  last?: string;
}

/** The head of a plain table: a heading a column. */
export function Headings({ of, last }: Props) {
  return (
    <TableThead>
      <TableTr>
        {of.map((heading) => (
          <TableTh key={heading} scope="col">
            {heading}
          </TableTh>
        ))}
        {last && (
          <TableTh scope="col">
            <span className="visually-hidden">{last}</span>
          </TableTh>
        )}
      </TableTr>
    </TableThead>
  );
}
